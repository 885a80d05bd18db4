"""The chip and the adapter of serial_flash.md, from their published commands alone."""
import os
import struct
import sys
import time

from pty_unit import Line

SIZE = 0x10000
PATH = sys.argv[1]
memory = bytearray(b"\xff" * SIZE)
if os.path.exists(PATH):
    with open(PATH, "rb") as file:
        memory[:] = file.read().ljust(SIZE, b"\xff")
status = int(sys.argv[2], 16) if len(sys.argv) > 2 else 0


def table():
    """JESD216, 6.4: header, one parameter header, and sixteen words of the basic table."""
    words = [0] * 16
    words[0] = 0xFFF120E5 & ~(3 << 17)
    words[1] = SIZE * 8 - 1
    words[7] = 12 | 0x20 << 8 | 15 << 16 | 0x52 << 24
    # Longest 2 x (7 + 1) times the usual; 16 ms are (0 + 1) x 16, 48 ms (2 + 1) x 16.
    words[9] = 7 | (0 | 1 << 5) << 4 | (2 | 1 << 5) << 11
    # Pages of 2^8; (9 + 1) x 64 microseconds, longest 2 x (7 + 1) times that.
    words[10] = 7 | 8 << 4 | 9 << 8 | 1 << 13
    head = b"SFDP" + bytes([6, 1, 0, 0xFF]) + bytes([0, 6, 1, 16, 0x10, 0, 0, 0xFF])
    return head + struct.pack("<16I", *words)


TABLE = table()


class Chip:
    def __init__(self):
        self.heard = []
        self.selected = False
        self.allowed = False
        self.until = 0.0
        self.works = 0
        self.shift_in = 0
        self.bits = 0
        self.out = 0xFF

    def busy(self):
        return time.monotonic() < self.until

    def work(self, seconds):
        self.works += 1
        self.until = time.monotonic() + seconds * (8 if self.works % 5 == 0 else 1)
        self.allowed = False
        with open(PATH, "wb") as file:
            file.write(memory)

    def address(self):
        return self.heard[1] << 16 | self.heard[2] << 8 | self.heard[3]

    def next_out(self):
        code, count = self.heard[0], len(self.heard)
        if code == 0x05:
            return status & 0xFC | self.busy() | self.allowed << 1
        if self.busy():
            return 0xFF
        if code == 0x9F:
            return bytes([0x5D, 0x40, 0x10])[(count - 1) % 3]
        if code == 0x5A and count >= 5:
            at = self.address() + count - 5
            return TABLE[at] if at < len(TABLE) else 0xFF
        if code == 0x03 and count >= 4:
            return memory[(self.address() + count - 4) % SIZE]
        return 0xFF

    def finish(self):
        global status
        if not self.heard or self.bits or self.busy():
            return
        code, count = self.heard[0], len(self.heard)
        if code == 0x06:
            self.allowed = True
        elif code == 0x04:
            self.allowed = False
        elif not self.allowed:
            return
        elif code == 0x01 and count == 2:
            status = self.heard[1] & 0xFC
            self.work(0.005)
        elif status & 0x1C:
            return
        elif code == 0x02 and count > 4:
            page, offset = self.address() & ~0xFF, self.address() & 0xFF
            for index, byte in enumerate(self.heard[4:]):
                memory[page + (offset + index) % 256] &= byte
            self.work(0.00064)
        elif code in (0x20, 0x52) and count == 4:
            size = 4096 if code == 0x20 else 32768
            start = self.address() // size * size
            memory[start:start + size] = b"\xff" * size
            self.work(0.016 if code == 0x20 else 0.048)

    def select(self, low):
        if self.selected and not low:
            self.finish()
        if low and not self.selected:
            self.heard, self.shift_in, self.bits, self.out = [], 0, 0, 0xFF
        self.selected = low

    def clock(self, low, bit):
        self.select(low)
        if not low:
            return 1
        gives = self.out >> (7 - self.bits) & 1
        self.shift_in = self.shift_in << 1 | bit
        self.bits += 1
        if self.bits == 8:
            self.heard.append(self.shift_in & 0xFF)
            self.shift_in, self.bits = 0, 0
            self.out = self.next_out()
        return gives


chip = Chip()
pins = 0x83


def answer(report):
    global pins
    command = report[0]
    if command == 0x00:
        kinds = {0xFF: bytes([2, 64, 0]), 0xFE: bytes([1, 1]), 0xF0: bytes([1, 2])}
        return bytes([0]) + kinds.get(report[1], b"\0")
    if command == 0x02:
        return bytes([2, 2 if report[1] in (0, 2) else 0])
    if command in (0x01, 0x03, 0x11):
        return bytes([command, 0])
    if command == 0x10:
        pins = pins & ~report[2] | report[1] & report[2]
        chip.select(not pins & 2)
        return bytes([0x10, pins])
    if command == 0x14:
        at, kept = 2, b""
        for _ in range(report[1]):
            about, at = report[at], at + 1
            count = about & 0x3F or 64
            high = about >> 6 & 1
            pins = pins & ~2 | high << 1
            back = 0
            for bit in range(count):
                gives = chip.clock(not high, report[at + bit // 8] >> bit % 8 & 1)
                back |= gives << bit
            at += (count + 7) // 8
            if about & 0x80:
                kept += back.to_bytes((count + 7) // 8, "little")
        return bytes([0x14, 0]) + kept
    return b"\xff"


line = Line(115200)
while True:
    line.write(answer(line.read(64)).ljust(64, b"\0"))
