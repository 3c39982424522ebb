"""Many people at once: how long pages and tries take.

    target/release/inky demo --addr 127.0.0.1:8140 --data "$(mktemp -d)" &
    python3 scripts/reference/load.py 127.0.0.1:8140 [people] [seconds]

Every person has a copy of a demo job, opens its lines, fetches what the bench draws, moves a slider (tries),
keeps a figure, and looks for 2 to 8 s in between. All come in within two seconds; the
first page of each is told apart. Prints, by kind of request, how many there were
and the median, the 95th percentile and the longest time, ms, with the memory of the server. Standard library
alone.
"""
import gzip
import http.client
import random
import re
import subprocess
import sys
import threading
import time
from urllib.parse import urlencode

ADDRESS = sys.argv[1]
PEOPLE = int(sys.argv[2]) if len(sys.argv) > 2 else 50
SECONDS = float(sys.argv[3]) if len(sys.argv) > 3 else 60
LINES = ["artwork", "clean", "inks", "trace", "tidy", "size", "layers", "sheet", "send"]
times: dict[str, list[float]] = {}
failed: list[str] = []
lock = threading.Lock()


class Person:
    def __init__(self, number, job):
        self.random = random.Random(number)
        self.line = http.client.HTTPConnection(ADDRESS, timeout=120)
        self.job = job

    def ask(self, kind, method, path, form=None, htmx=True):
        headers = {"Accept": "text/html", "Accept-Encoding": "gzip"}
        if htmx:
            headers["HX-Request"] = "true"
        body = None
        if form is not None:
            body = urlencode(form)
            headers["Content-Type"] = "application/x-www-form-urlencoded"
        start = time.monotonic()
        self.line.request(method, path, body, headers)
        answer = self.line.getresponse()
        data = answer.read()
        took = time.monotonic() - start
        if kind:
            with lock:
                times.setdefault(kind, []).append(took)
        if answer.status >= 400 and answer.status not in (409, 410):
            with lock:
                failed.append(f"{answer.status} {method} {path}: {data[:120]!r}")
        if answer.getheader("Content-Encoding") == "gzip":
            data = gzip.decompress(data)
        return answer.status, answer, data.decode("utf-8", "replace")

    def revision(self, page):
        found = re.search(r'name="revision" value="(\d+)"', page)
        return int(found[1]) if found else None

    def think(self):
        # Nobody keeps a connection open for so long.
        self.line.close()
        time.sleep(self.random.uniform(2, 8))

    def work(self, until):
        kind = "first page"
        while time.monotonic() < until:
            line = self.random.choice(LINES)
            _, _, page = self.ask(kind, "GET", f"/jobs/{self.job}/{line}", htmx=False)
            kind = "page"
            revision = self.revision(page)
            key = re.search(r'data-mount="bench" [^>]*data-key="([^"]+)"', page)
            if key:
                self.ask("drawing", "GET", f"/jobs/{self.job}/results/{key[1]}/outlines.json")
            self.think()
            figure = round(self.random.uniform(0.02, 0.4), 3)
            for step in range(3):
                form = {"revision": revision, "line": "trace", "changed": "tolerance",
                        "tolerance": f"{figure + step / 100:.3f}mm"}
                self.ask("try", "POST", f"/jobs/{self.job}/try", form)
                time.sleep(0.15)
            if revision is not None:
                self.ask("keep", "POST", f"/jobs/{self.job}/choose", form)
            self.think()


def copies():
    """A copy of a demo job for everybody; their numbers."""
    first = http.client.HTTPConnection(ADDRESS, timeout=120)
    made = []
    for n in range(PEOPLE):
        first.request("POST", f"/jobs/{n % 5 + 1}/duplicate", "", {"HX-Request": "true"})
        answer = first.getresponse()
        page = answer.read().decode()
        made.append(max(map(int, re.findall(r'id="job-(\d+)"', page))))
    return made


def memory():
    told = subprocess.run(["pgrep", "-f", f"addr {ADDRESS}"], capture_output=True, text=True).stdout.split()
    for process in told:
        try:
            status = open(f"/proc/{process}/status").read()
        except OSError:
            continue
        if status.startswith("Name:\tinky"):
            figures = dict(re.findall(r"(VmRSS|VmHWM):\s+(\d+)", status))
            return {name: int(value) // 1024 for name, value in figures.items()}
    return {}


def main():
    people = [Person(number, job) for number, job in enumerate(copies())]
    until = time.monotonic() + SECONDS
    threads = [threading.Thread(target=person.work, args=(until,)) for person in people]
    for thread in threads:
        thread.start()
        time.sleep(2.0 / PEOPLE)
    for thread in threads:
        thread.join()
    print(f"{PEOPLE} people, {SECONDS:.0f} s; memory MB {memory()}")
    print("| request | times | median ms | 95 % ms | longest ms |\n|---|---|---|---|---|")
    for kind, all_times in sorted(times.items()):
        all_times.sort()
        at = lambda share: 1000 * all_times[min(len(all_times) - 1, int(share * len(all_times)))]
        print(f"| {kind} | {len(all_times)} | {at(.5):.0f} | {at(.95):.0f} | {at(1):.0f} |")
    for line in failed[:10]:
        print(line)
    print(f"{len(failed)} failed")


main()
