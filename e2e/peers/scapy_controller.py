"""The winch controller of scapy_controller.md: messages are segmented by scapy's ISO-TP layer, services are read and built by
its layer for ISO 14229."""
import binascii
import os
import select
import struct
import sys
import time

from scapy.contrib.automotive.uds import (
    UDS, UDS_CC, UDS_CDTCS, UDS_DSC, UDS_DSCPR, UDS_ER, UDS_ERPR, UDS_NR, UDS_RC, UDS_RCPR, UDS_RD, UDS_RDBI, UDS_RDBIPR,
    UDS_RDBPI, UDS_RDBPIPR, UDS_RDPR, UDS_RTEPR, UDS_SA, UDS_SAPR, UDS_TD, UDS_TDPR, UDS_WDBI, UDS_WDBIPR,
)
from scapy.contrib.isotp import ISOTP, ISOTPMessageBuilder
from scapy.layers.can import CAN

from pty_unit import Line

REQUEST, ANSWER, ALL = 0x18DA10F1, 0x18DAF110, 0x18DB33F1
START, SIZE = 0x010000, 0x4000
# As the lorry's variant: a byte of address before each frame, and an adapter that stamps what it hears.
ADDRESSED = len(sys.argv) > 2 and sys.argv[2] == "addressed"
OWN, TESTER, EVERYBODY = 0x10, 0xF1, 0xFE
# As a pair: a second controller on the same bus, whose memory lies in a file beside the first one's.
PAIR = len(sys.argv) > 2 and sys.argv[2] == "pair"
line = Line(115200)


class State:
    session, open, printed, erased, seed, at, end, block, busy = 1, False, False, False, None, 0, 0, 0, 0


class Board:
    def __init__(self, request, answer, file):
        self.request, self.answer, self.file = request, answer, file
        self.state, self.flash = State(), bytearray(b"\xff" * SIZE)
        self.builder = ISOTPMessageBuilder(use_ext_address=ADDRESSED)
        with open(file, "rb") as kept:
            first = kept.read()
            self.flash[: len(first)] = first


boards = {REQUEST: Board(REQUEST, ANSWER, sys.argv[1])}
if PAIR:
    boards[0x18DA11F1] = Board(0x18DA11F1, 0x18DAF111, sys.argv[1] + ".second")
# The one that was spoken to last: it answers.
board = boards[REQUEST]
state, flash = board.state, board.flash


class Tester:
    """The bus as the adapter gives it: text in, text out."""

    def __init__(self):
        self.text = b""

    def frame(self):
        while True:
            while b"\r" not in self.text:
                send_due()
                if select.select([line.master], [], [], until_due())[0]:
                    self.text += os.read(line.master, 4096)
            command, self.text = self.text.split(b"\r", 1)
            if command[:1] == b"T":
                line.write(b"Z\r")
                return int(command[1:9], 16), bytes.fromhex(command[10:].decode())
            if command[:1] == b"t":
                line.write(b"z\r")
                return None, b""
            line.write(b"\r")

    def send(self, data):
        stamp = b"%04X" % (int(time.monotonic() * 1000) % 60000) if ADDRESSED else b""
        line.write(b"T%08X%d%s%s\r" % (board.answer, len(data), data.hex().upper().encode(), stamp))


# What it sends by itself: when each is due, by its low byte; it counts what it sends.
PERIODS = {1: 1.0, 2: 0.25, 3: 0.05}
sending = {}
sent = 0


def until_due():
    return max(0.0, min(due for due, _ in sending.values()) - time.monotonic()) if sending else None


def send_due():
    global sent
    for low, (due, period) in list(sending.items()):
        if due <= time.monotonic():
            sending[low] = (due + period, period)
            sent += 1
            say(UDS() / UDS_RDBPIPR(periodicDataIdentifier=low, dataRecord=struct.pack(">H", sent)))


tester = Tester()
head = bytes([TESTER]) if ADDRESSED else b""


def hear():
    """The next whole message and whether it was to all; leave is given for every first frame."""
    global board, state, flash
    while True:
        identifier, data = tester.frame()
        said = data[1:] if ADDRESSED else data
        if identifier == ALL and (not ADDRESSED or data[0] == EVERYBODY):
            return bytes(said[1 : 1 + said[0]]), True
        if identifier not in boards or (ADDRESSED and data[0] != OWN):
            continue
        board = boards[identifier]
        state, flash = board.state, board.flash
        if said[0] >> 4 == 3:
            return None, False
        if said[0] >> 4 == 1:
            tester.send(head + b"\x30\x00\x00")
        board.builder.feed(CAN(identifier=board.request, flags="extended", data=data))
        if len(board.builder) > 0:
            return bytes(board.builder.pop().data), False


def say(answer):
    addresses = {"rx_ext_address": TESTER} if ADDRESSED else {}
    frames = ISOTP(bytes(answer), tx_id=board.answer, rx_id=board.answer, **addresses).fragment()
    tester.send(bytes(frames[0].data))
    if len(frames) > 1:
        while hear()[0] is not None:
            pass
        for frame in frames[1:]:
            tester.send(bytes(frame.data))


def no(service, code):
    say(UDS() / UDS_NR(requestServiceId=service, negativeResponseCode=code))


def inside(address, length):
    return address >= START and length > 0 and address + length <= START + SIZE


def routine(request):
    data = request_bytes[4:]
    identifier = request.routineIdentifier
    if identifier in (0x0203, 0xFF01):
        if state.session == 1:
            return no(0x31, 0x7F)
        return say(UDS() / UDS_RCPR(routineControlType=1, routineIdentifier=identifier) / b"\x00")
    if state.session != 2:
        return no(0x31, 0x7F)
    if not state.open:
        return no(0x31, 0x33)
    if len(data) != 5:
        return no(0x31, 0x13)
    address, length = int.from_bytes(data[:3], "big"), int.from_bytes(data[3:], "big")
    if not inside(address, length):
        return no(0x31, 0x31)
    if identifier == 0xFF00:
        if not state.printed:
            return no(0x31, 0x24)
        no(0x31, 0x78)
        time.sleep(0.4)
        flash[address - START : address - START + length] = b"\xff" * length
        state.erased = True
        return say(UDS() / UDS_RCPR(routineControlType=1, routineIdentifier=identifier) / b"\x00")
    if identifier == 0x0202:
        crc = binascii.crc32(flash[address - START : address - START + length])
        return say(UDS() / UDS_RCPR(routineControlType=1, routineIdentifier=identifier) / struct.pack(">I", crc))
    no(0x31, 0x31)


while True:
    request_bytes, to_all = hear()
    if request_bytes is None:
        continue
    request = UDS(request_bytes)
    service = request.service
    if to_all:
        # What is said to all wants no answer here: 28 and 85 with the high bit.
        continue
    if UDS_DSC in request:
        wanted = request.diagnosticSessionType
        if wanted == 2 and state.session == 1:
            no(0x10, 0x7E)
        elif wanted not in (1, 2, 3):
            no(0x10, 0x12)
        else:
            state.session, state.open, state.printed, state.erased = wanted, False, False, False
            say(UDS() / UDS_DSCPR(diagnosticSessionType=wanted, sessionParameterRecord=b"\x00\x32\x01\xf4"))
    elif UDS_SA in request:
        if request.securityAccessType == 1:
            state.seed = int(time.time() * 1000) & 0x7FFFFFFF | 1
            say(UDS() / UDS_SAPR(securityAccessType=1, securitySeed=struct.pack(">I", state.seed)))
        else:
            key = ((state.seed ^ 0xA5A5A5A5) + 1) & 0xFFFFFFFF if state.seed else None
            if key is not None and bytes(request.securityKey) == struct.pack(">I", key):
                state.open = True
                say(UDS() / UDS_SAPR(securityAccessType=2))
            else:
                no(0x27, 0x35)
            state.seed = None
    elif UDS_CC in request or UDS_CDTCS in request:
        # They are wanted of all: asked of this one alone it refuses.
        no(service, 0x22)
    elif UDS_RDBI in request:
        if request.identifiers == [0xF189]:
            text = bytes(flash[:16]).split(b"\0")[0]
            say(UDS() / UDS_RDBIPR(dataIdentifier=0xF189) / text)
        else:
            no(0x22, 0x31)
    elif UDS_RDBPI in request:
        lows = request_bytes[2:]
        if state.session == 1:
            no(0x2A, 0x7F)
        elif request.transmissionMode == 4:
            for low in lows or list(sending):
                sending.pop(low, None)
            say(UDS(service=0x6A))
        elif request.transmissionMode not in PERIODS or not lows or any(low not in (1, 2) for low in lows):
            no(0x2A, 0x31)
        else:
            period = PERIODS[request.transmissionMode]
            for low in lows:
                sending[low] = (time.monotonic() + period, period)
            say(UDS(service=0x6A))
    elif UDS_WDBI in request:
        if not state.open:
            no(0x2E, 0x33)
        elif request.dataIdentifier != 0xF15A or len(request_bytes) != 7:
            no(0x2E, 0x31)
        else:
            state.printed = True
            say(UDS() / UDS_WDBIPR(dataIdentifier=0xF15A))
    elif UDS_RC in request:
        routine(request)
    elif UDS_RD in request:
        body = request_bytes[1:]
        address, length = int.from_bytes(body[2:5], "big"), int.from_bytes(body[5:], "big")
        if state.session != 2 or not state.open or not state.erased:
            no(0x34, 0x22)
        elif body[:2] != b"\x00\x23" or len(body) != 7 or not inside(address, length):
            no(0x34, 0x31)
        elif state.busy == 0:
            state.busy = 1
            no(0x34, 0x21)
        else:
            state.at, state.end, state.block = address, address + length, 0
            say(UDS() / UDS_RDPR(memorySizeLen=1, reserved=0, maxNumberOfBlockLength=bytes([132])))
    elif UDS_TD in request:
        number, data = request_bytes[1], request_bytes[2:]
        if number != (state.block + 1) & 0xFF:
            no(0x36, 0x73)
        elif state.at + len(data) > state.end or len(data) > 130:
            no(0x36, 0x31)
        else:
            flash[state.at - START : state.at - START + len(data)] = data
            state.at, state.block = state.at + len(data), number
            say(UDS() / UDS_TDPR(blockSequenceCounter=number))
    elif service == 0x37:
        if state.at != state.end:
            no(0x37, 0x24)
        else:
            with open(board.file, "wb") as file:
                file.write(flash)
            say(UDS() / UDS_RTEPR())
    elif UDS_ER in request:
        state.session, state.open = 1, False
        say(UDS() / UDS_ERPR(resetType=1))
    else:
        no(service, 0x11)
