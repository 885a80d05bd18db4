"""The wave recorder of wave_recorder.md: room for four lines, programmed one after the other."""
import binascii
import os
import select
import time

from pty_unit import Flash, Line, memory_file, save

ROOM, PROGRAM_S = 4, 0.004
line = Line(57600)
flash = Flash(0, 0x2000, 512)
text, room, busy_until, skipping, forgotten, most = b"", [], 0.0, None, 0, 0


def store(words):
    """One line into the buffer, or refused; what stands behind a refused one is not kept."""
    global skipping, forgotten
    address = int(words[1], 16)
    if skipping is not None and address != skipping:
        return
    data = bytes.fromhex(words[2])
    if not flash.holds(address, len(data)):
        line.write(b"x %04X\r" % address)
        return
    forgotten += 1
    # Once it has no room although it was not asked for too much: it was busy with its waves.
    if len(room) >= ROOM or forgotten == 19:
        skipping = address
        line.write(b"b %04X\r" % address)
        return
    skipping = None
    room.append((address, data))


def command(words):
    if words[0] == "?":
        line.write(b"WR1 loader, room 4\r")
    elif words[0] == "w":
        store(words)
    elif words[0] == "e":
        for _ in flash.erase(int(words[1], 16), int(words[2], 16)):
            pass
        line.write(b"e\r")
    elif words[0] == "c":
        found = binascii.crc32(flash.read(int(words[1], 16), int(words[2], 16)))
        line.write(b"c %08X\r" % found)
    elif words[0] == "g":
        save(flash, memory_file())
        line.write(b"go\r")


while True:
    wait = max(0.0, busy_until - time.monotonic()) if room else None
    ready, _, _ = select.select([line.master], [], [], wait)
    if ready:
        data = os.read(line.master, 4096)
        if line.heard_at() == line.baud:
            text += data
        while b"\r" in text:
            one, text = text.split(b"\r", 1)
            if one:
                if not room:
                    busy_until = time.monotonic() + PROGRAM_S
                command(one.decode("latin-1").split())
                most = max(most, len(room))
    if room and time.monotonic() >= busy_until:
        address, data = room.pop(0)
        flash.program(address, data)
        save(flash, memory_file())
        line.write(b"w %04X\r" % address)
        busy_until = time.monotonic() + PROGRAM_S
