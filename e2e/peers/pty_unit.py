"""A unit at the far end of a pseudo-terminal, with nothing but Python's standard library.

Prints the path of the port on its first line. What it hears at another speed than its own is noise to it, as on a real line:
the speed that the other side has set is asked of the terminal.
"""
import os
import sys
import termios
import time
import tty

SPEEDS = {getattr(termios, name): int(name[1:]) for name in dir(termios) if name.startswith("B") and name[1:].isdigit()}


class Line:
    def __init__(self, baud):
        self.master, slave = os.openpty()
        tty.setraw(self.master)
        tty.setraw(slave)
        self.slave = slave
        self.baud = baud
        self.held = b""
        print(os.ttyname(slave), flush=True)

    def heard_at(self):
        return SPEEDS.get(termios.tcgetattr(self.slave)[5])

    def read(self, count=1):
        """Exactly so many bytes; what comes at another speed is lost."""
        while len(self.held) < count:
            data = os.read(self.master, 4096)
            if self.heard_at() == self.baud:
                self.held += data
        data, self.held = self.held[:count], self.held[count:]
        return data

    def write(self, data):
        if self.heard_at() != self.baud:
            data = bytes((byte * 37 + 11) & 0xFF for byte in data)
        # A writer that was stopped may have sent a part; a unit loses nothing for that.
        while data:
            data = data[os.write(self.master, data) :]

    def line(self, ends=b"\r\n"):
        text = b""
        while True:
            byte = self.read()
            if byte in (bytes([end]) for end in ends):
                return text.decode("latin-1")
            text += byte


class Flash:
    """Memory that is erased to ones by sectors and programmed by clearing bits, as flash is."""

    def __init__(self, start, size, sector, erase_ms=2):
        self.start, self.size, self.sector, self.erase_ms = start, size, sector, erase_ms
        self.bytes = bytearray(b"\xff" * size)
        if os.path.exists(memory_file()):
            with open(memory_file(), "rb") as file:
                self.bytes[:] = file.read().ljust(size, b"\xff")

    def holds(self, address, length):
        return address >= self.start and length > 0 and address + length <= self.start + self.size

    def sectors(self, address, length):
        first = (address - self.start) // self.sector
        last = (address + length - 1 - self.start) // self.sector
        return range(first, last + 1)

    def erase(self, address, length):
        for sector in self.sectors(address, length):
            time.sleep(self.erase_ms / 1000)
            at = sector * self.sector
            self.bytes[at : at + self.sector] = b"\xff" * self.sector
            yield sector

    def program(self, address, data):
        at = address - self.start
        for index, byte in enumerate(data):
            self.bytes[at + index] &= byte

    def read(self, address, length):
        at = address - self.start
        return bytes(self.bytes[at : at + length])


def save(flash, path):
    """What lies in the unit, for whoever compares it from outside."""
    with open(path, "wb") as file:
        file.write(flash.bytes)


def memory_file():
    return sys.argv[1]
