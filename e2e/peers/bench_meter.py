"""The bench meter of bench_meter.md: volts that fall by a step with each reading."""
import sys

from pty_unit import Line

volts = float(sys.argv[1])
step = float(sys.argv[2]) if len(sys.argv) > 2 else 0.0
mute = "mute" in sys.argv[3:]
line = Line(9600)
while True:
    asked = line.line(b"\r").strip()
    if mute:
        continue
    if asked == "V":
        line.write(f"V={volts:.3f}\r\n".encode())
        volts -= step
    elif asked == "R":
        line.write(b"R=20\r\n")
    else:
        line.write(b"?\r\n")
