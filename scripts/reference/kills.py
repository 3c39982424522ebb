"""The program ended in the midst of writing, as when the power goes: nothing that was acknowledged is lost.

    python3 scripts/reference/kills.py target/release/inky [rounds]

In every round jobs are brought in and changed as fast as they are answered, and the program is ended by
`kill -9` at a random moment. Then it is started again, and every job is held against the last answer that
came before. Prints how much was acknowledged and what of it was lost. Standard library alone.
"""
import http.client
import pathlib
import random
import re
import signal
import struct
import subprocess
import sys
import tempfile
import threading
import zlib
from urllib.parse import urlencode

PROGRAM = str(pathlib.Path(sys.argv[1]).resolve())
ROUNDS = int(sys.argv[2]) if len(sys.argv) > 2 else 60


def picture(n):
    """A black rectangle on white, 32 × 32 px, another for every number."""
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    wide, high = 4 + n % 20, 4 + n // 20 % 20
    rows = b"".join(b"\0" + bytes(0 if 4 < x <= 4 + wide and 4 < y <= 4 + high else 255 for x in range(32)) for y in range(32))
    head = struct.pack(">IIBBBBB", 32, 32, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


class Server:
    def __init__(self, folder):
        self.process = subprocess.Popen([PROGRAM, "serve", "--addr", "127.0.0.1:0", "--data", "d"], cwd=folder,
                                        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        line = self.process.stdout.readline()
        self.address = re.search(r"//([\d.:]+)/", line)[1]

    def ask(self, method, path, body=None, kind="application/x-www-form-urlencoded"):
        line = http.client.HTTPConnection(self.address, timeout=30)
        line.request(method, path, body, {"Content-Type": kind, "HX-Request": "true"} if body else {})
        answer = line.getresponse()
        return answer.status, answer.getheader("Location") or "", answer.read().decode("utf-8", "replace")

    def end(self, how):
        self.process.send_signal(how)
        self.process.wait()


def work(server, jobs, number):
    """Brings in a job and changes it, until nobody answers; `jobs` holds the revision last acknowledged."""
    n = 0
    try:
        while True:
            n += 1
            body = (b'--x\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n\r\n'
                    + picture(number * 7 + n) + b"\r\n--x--\r\n")
            status, place, _ = server.ask("POST", "/jobs", body, "multipart/form-data; boundary=x")
            if status != 201:
                return
            jobs[place] = 0
            for revision in range(4):
                form = urlencode({"revision": revision, "line": "size", "changed": "width", "width": f"{20 + revision}mm"})
                status, _, _ = server.ask("POST", f"{place}/choose", form)
                if status != 200:
                    return
                jobs[place] = revision + 1
    except (OSError, http.client.HTTPException):
        return


def main():
    jobs, lost = {}, []
    with tempfile.TemporaryDirectory() as folder:
        for number in range(ROUNDS):
            server = Server(folder)
            doing = [threading.Thread(target=work, args=(server, jobs, number * 2 + k)) for k in range(2)]
            for thread in doing:
                thread.start()
            threading.Event().wait(random.Random(number).uniform(0.05, 1.5))
            server.end(signal.SIGKILL)
            for thread in doing:
                thread.join()
        server = Server(folder)
        for place, revision in jobs.items():
            status, _, page = server.ask("GET", f"{place}/size")
            found = re.search(r'name="revision" value="(\d+)"', page)
            if status != 200 or not found or int(found[1]) < revision:
                lost.append((place, revision, status, found and found[1]))
        server.end(signal.SIGTERM)
    print(f"{ROUNDS} times ended by kill -9: {len(jobs)} jobs and {sum(jobs.values())} changes acknowledged, {len(lost)} lost")
    for line in lost[:10]:
        print(*line)
    sys.exit(bool(lost))


main()
