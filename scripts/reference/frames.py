"""Frames a second on the bench while a design of 20,000 nodes is panned and a node is dragged.

    python3 -m venv v && v/bin/pip install selenium==4.36.0
    v/bin/python scripts/reference/frames.py http://127.0.0.1:8137/jobs/7/tidy

The job is one that scripts/reference/edits.mjs made. Everything is picked, the Nodes tool in hand, so
every node is drawn. Frames are those that requestAnimationFrame gives while the pointer moves.
"""
import sys
import time

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

options = Options()
options.binary_location = "/usr/bin/chromium"
for arg in ["--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=1280,943"]:
    options.add_argument(arg)
page = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
page.get(sys.argv[1])
known = ("const b = document.getElementById('bench');"
         "return b.dataset.shown === b.dataset.key && document.getElementById('tidy').dataset.items === b.dataset.key")
while not page.execute_script(known):
    time.sleep(0.1)
page.execute_script("document.querySelector('[data-pick=all]').click(); document.querySelector('[data-tool=nodes]').click()")
time.sleep(0.5)
DRAG = """
const [space, done] = [arguments[0], arguments[arguments.length - 1]];
const canvas = document.querySelector('#bench canvas');
const box = canvas.getBoundingClientRect();
const [scale, x, y] = canvas.dataset.view.split(' ').map(Number);
const start = [box.left + x + scale * 3.6, box.top + y + scale * 2];
const send = (type, dx, dy) => canvas.dispatchEvent(new PointerEvent(type, {
  pointerId: 1, button: 0, buttons: 1, bubbles: true, clientX: start[0] + dx, clientY: start[1] + dy }));
canvas.setPointerCapture = () => {};
if (space) document.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', bubbles: true }));
send('pointerdown', 0, 0);
let frames = 0;
const began = performance.now();
const step = () => {
  const gone = performance.now() - began;
  if (gone > 3000) {
    send('pointercancel', 0, 0);
    document.dispatchEvent(new KeyboardEvent('keyup', { key: ' ', bubbles: true }));
    done(frames / (gone / 1000));
    return;
  }
  frames += 1;
  send('pointermove', 40 * Math.sin(gone / 200), 40 * Math.cos(gone / 300));
  requestAnimationFrame(step);
};
requestAnimationFrame(step);
"""
for name, space in [("panned", True), ("node dragged", False)]:
    print(f"{name}: {page.execute_async_script(DRAG, space):.0f} frames a second")
page.quit()
