"""The bilge pump of two_speeds.md: its firmware speaks at one speed, its bootloader at another, and it waits for a sync byte."""
from pty_unit import Flash, Line, memory_file, save

line = Line(9600)
flash = Flash(0, 0x1000, 0x100)
while True:
    text = line.line(b"\r")
    if text == "?":
        line.write(b"BP1 7.2\r")
        continue
    if text != "update":
        continue
    line.write(b"57600\r")
    line.baud = 57600
    # Seven sync bytes before it is awake, as a receiver that measures the speed needs some.
    seen = 0
    while seen < 7:
        seen = seen + 1 if line.read() == b"\x55" else 0
    line.write(b"\x06")
    while True:
        command = line.read()
        if command == b"\x55":
            continue
        if command == b"W":
            address, length = int.from_bytes(line.read(2), "big"), line.read()[0]
            data, given = line.read(length), line.read()[0]
            if sum(data) + given & 0xFF:
                line.write(b"\x15")
                continue
            flash.program(address, data)
            save(flash, memory_file())
            line.write(b"\x06")
        elif command == b"E":
            for _ in flash.erase(0, 0x1000):
                pass
            line.write(b"\x06")
        elif command == b"R":
            address, length = int.from_bytes(line.read(2), "big"), line.read()[0]
            line.write(flash.read(address, length))
        elif command == b"G":
            line.write(b"\x06")
            line.baud = 9600
            break
        else:
            line.write(b"\x15")
