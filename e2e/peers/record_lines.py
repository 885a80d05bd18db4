"""The lock motor of record_lines.md: S-records, one answer a line, no way to read back."""
from pty_unit import Flash, Line, memory_file, save

line = Line(19200)
flash = Flash(0x2000, 0x2000, 0x400)
lost = 0
while True:
    text = line.line(b"\n").strip()
    if text == "i":
        line.write(b"LM2 loader 1.0\n")
    elif text == "e":
        for _ in flash.erase(0x2000, 0x2000):
            pass
        line.write(b"*\n")
    elif text == "x":
        line.write(b"bye\n")
    elif text.startswith("S"):
        data = bytes.fromhex(text[2:])
        if sum(data) & 0xFF != 0xFF or data[0] != len(data) - 1:
            line.write(b"!c\n")
        elif text[1] in "123":
            width = int(text[1]) + 1
            address, payload = int.from_bytes(data[1 : 1 + width], "big"), data[1 + width : -1]
            lost += 1
            if lost == 7:
                # Once it has no time and says so: the line comes again.
                line.write(b"!b\n")
            elif not flash.holds(address, len(payload)):
                line.write(b"!r\n")
            else:
                flash.program(address, payload)
                line.write(b".\n")
        else:
            save(flash, memory_file())
            line.write(b".\n")
