"""The crane scale of slip_frames.md: frames after RFC 1055, a number in each, a 16-bit CRC."""
import sys

from pty_unit import Flash, Line, memory_file, save

END, ESC = 0xC0, 0xDB
line = Line(57600)
flash = Flash(0x10000, 0x4000, 0x800)
asked = 0


def crc16(data):
    """CRC-16/ARC: polynomial 8005 reflected, start 0 (catalogue: check value BB3D)."""
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = crc >> 1 ^ 0xA001 if crc & 1 else crc >> 1
    return crc


assert crc16(b"123456789") == 0xBB3D


def frame():
    data = bytearray()
    while True:
        byte = line.read()[0]
        if byte == END:
            if data:
                return bytes(data)
        elif byte == ESC:
            data.append({0xDC: END, 0xDD: ESC}[line.read()[0]])
        else:
            data.append(byte)


def answer(number, payload):
    bare = bytes([number]) + payload
    bare += crc16(bare).to_bytes(2, "little")
    out = b"".join({END: b"\xdb\xdc", ESC: b"\xdb\xdd"}.get(byte, bytes([byte])) for byte in bare)
    line.write(b"\xc0" + out + b"\xc0")


while True:
    data = frame()
    if len(data) < 4 or crc16(data[:-2]).to_bytes(2, "little") != data[-2:]:
        continue
    number, command, rest = data[0], data[1], data[2:-2]
    asked += 1
    if asked % 23 == 0:
        # An answer that is lost on its way: the same number comes again.
        continue
    if command == 0x01:
        answer(number, b"\x81CS-9 2.0.1")
    elif command == 0x02:
        address, length = int.from_bytes(rest[:4], "little"), int.from_bytes(rest[4:8], "little")
        if not flash.holds(address, length):
            answer(number, b"\xff\x02")
        else:
            for _ in flash.erase(address, length):
                pass
            answer(number, b"\x82")
    elif command == 0x03:
        address, payload = int.from_bytes(rest[:4], "little"), rest[4:]
        if not flash.holds(address, len(payload)):
            answer(number, b"\xff\x02")
        elif asked % 17 == 0:
            answer(number, b"\xfe")
        else:
            flash.program(address, payload)
            save(flash, memory_file())
            answer(number, b"\x83")
    elif command == 0x04:
        address, length = int.from_bytes(rest[:4], "little"), rest[4]
        answer(number, b"\x84" + flash.read(address, length) if flash.holds(address, length) else b"\xff\x02")
    elif command == 0x06:
        answer(number, b"\x86")
    else:
        answer(number, b"\xff\x01")
    sys.stdout.flush()
