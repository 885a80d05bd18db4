"""The wideband of wideband.md: it talks by itself, and its figure is the time since it began."""
import sys
import threading
import time

from pty_unit import Line

step = float(sys.argv[1]) if len(sys.argv) > 1 else 0.05
mute = "mute" in sys.argv[2:]
line = Line(9600)
began = time.monotonic()


def talk():
    while True:
        time.sleep(step)
        if not mute:
            line.write(b"L=%.3f T=412\r" % (time.monotonic() - began))


threading.Thread(target=talk, daemon=True).start()
while True:
    line.read()
