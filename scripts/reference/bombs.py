"""Files that ask for far more work than their size: what the program takes for each.

    cargo build --release && python3 scripts/reference/bombs.py target/release/inky

makes them in a folder of its own and prints processor time, greatest memory and answer of each.
"""
import gzip
import resource
import struct
import subprocess
import sys
import tempfile

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">'
BOX = '<rect width="5" height="5"/>'
CIRCLE = "0\nCIRCLE\n10\n0\n20\n0\n40\n1\n"


def svg(body):
    return (HEAD + body + "</svg>").encode()


def dxf(entities, block=""):
    blocks = f"0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nA\n{block}0\nENDBLK\n0\nENDSEC\n" if block else ""
    return f"{blocks}0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n".encode()


def holes(ring):
    return "".join(f"M{i % 450 * .2 + .1:.3f} {i // 450 * .2 + .1:.3f}{ring}" for i in range(200_000))


def frames():
    def picture(side):
        return b"," + struct.pack("<HHHHB", 0, 0, side, side, 0) + b"\x02\x02\x4c\x01\x00"
    wait = b"!\xf9\x04\0\0\0\0\0"
    return (b"GIF89a" + struct.pack("<HHBBB", 4, 4, 0x80, 0, 0) + b"\0\0\0\xff\xff\xff"
            + wait + picture(4) + wait + picture(60_000) + b";")


FILES = {
    "20,000 markers.svg": svg('<marker id="m"><path d="M0 0L4 2L0 4Z"/></marker><path marker-mid="url(#m)" fill="none" stroke="#000" d="M0 0'
                              + "".join(f"L{i % 97} {i % 89}" for i in range(20_000)) + '"/>'),
    "200,000 holes.svg": svg('<path fill-rule="evenodd" d="M0 0H100V100H0Z' + holes("h.1v.1h-.1z") + '"/>'),
    "200,000 holes by direction.svg": svg('<path d="M0 0H100V100H0Z' + holes("v.1h.1v-.1z") + '"/>'),
    "100,000 groups in each other.svg": svg("<g>" * 100_000 + BOX + "</g>" * 100_000),
    "50,000 style rules.svg": svg("<style>" + "".join(f".a{i} g > rect{{fill:red}}" for i in range(50_000)) + "</style>" + BOX * 5000),
    "style rules that go back.svg": svg("<style>" + "g g g g g g.x rect{fill:red}" * 50 + "</style>" + "<g>" * 60 + BOX * 1000 + "</g>" * 60),
    "one arc of 1e38.svg": svg('<path d="M0 0A1e38 1e38 0 1 1 50 50Z"/>' + BOX),
    "uses of uses.svg": svg('<g id="a0">' + BOX + "</g>" + "".join(f'<g id="a{i + 1}">' + f'<use href="#a{i}"/>' * 10 + "</g>" for i in range(9))),
    "a scribble of 4,000 sides.svg": svg('<path d="M0 0' + "".join(f"L{i * 37 % 101} {i * 53 % 97}" for i in range(4000)) + 'Z"/>'),
    "100,000 lines from one place.svg": svg("".join(f'<path fill="none" stroke="#000" d="M50 50L{i % 100} {i // 1000}"/>' for i in range(100_000))),
    "60 MB of blanks packed.svgz": gzip.compress(svg(" " * (60 << 20) + BOX)),
    "100 inserts of no size.dxf": dxf("0\nINSERT\n2\nA\n41\n0\n42\n0\n70\n10000\n71\n10000\n" * 100, CIRCLE),
    "an array of 900,000.dxf": dxf("0\nINSERT\n2\nA\n70\n1000\n71\n900\n44\n3\n45\n3\n", CIRCLE),
    "a spline of 200,000 points.dxf": dxf("0\nSPLINE\n71\n3\n" + "".join(f"40\n{min(max(i - 3, 0), 199_997)}\n" for i in range(200_004))
                                          + "".join(f"10\n{i % 1000}\n20\n{i * 7 % 977}\n" for i in range(200_000))),
    "300,000 sections.dxf": b"0\nSECTION\n2\nENTITIES\n" * 300_000 + dxf(CIRCLE),
    "50,000 circles over each other.dxf": dxf("".join(f"0\nCIRCLE\n10\n{i * .01:.2f}\n20\n0\n40\n300\n" for i in range(50_000))),
    "50,000 circles that overlap.dxf": dxf("".join(f"0\nCIRCLE\n10\n{i % 250 * 3}\n20\n{i // 250 * 3}\n40\n1.7\n" for i in range(50_000))),
    "400,000 arcs.plt": ("IN;SP1;PU0,0;PD;" + "AA100,0,90;" * 400_000 + "PU;").encode(),
    "300,000 circles.plt": ("IN;SP1;PU0,0;" + "CI100;" * 300_000).encode(),
    "1.9 million lines.nc": ("G21 G90\nM3 S500\n" + "".join(f"G1 X{i * 7 % 1000} Y{i * 13 % 997}\n" for i in range(1_900_000)) + "M5\n").encode(),
    "a second frame of 60,000 px.gif": frames(),
}

print("| file | bytes | CPU s | MB | answer |\n|---|---|---|---|---|")
with tempfile.TemporaryDirectory() as folder:
    for name, data in FILES.items():
        path = f"{folder}/{name}"
        with open(path, "wb") as out:
            out.write(data)
        word = "trace" if name.endswith("gif") else "convert"
        # A process between counts one child alone.
        code = ("import resource, subprocess, sys\n"
                "done = subprocess.run(sys.argv[1:], capture_output=True, text=True)\n"
                "use = resource.getrusage(resource.RUSAGE_CHILDREN)\n"
                "last = done.stderr.strip().splitlines()[-1:] or ['']\n"
                "print(f'{use.ru_utime + use.ru_stime:.1f}|{use.ru_maxrss // 1024}|{done.returncode} {last[0]}')")
        try:
            said = subprocess.run([sys.executable, "-c", code, sys.argv[1], word, path, "-o", f"{folder}/out.svg", "--force"],
                                  capture_output=True, text=True, timeout=120).stdout.strip()
        except subprocess.TimeoutExpired:
            said = "> 120|?|no answer"
        cpu, memory, answer = said.split("|", 2)
        print(f"| {name} | {len(data):,} | {cpu} | {memory} | {answer.replace(folder + '/', '')[:90]} |", flush=True)
