"""The node of can_library.md: python3-can's driver for slcan at the far end of a line."""
import json
import sys

import can

TEXT = b"HX-2 firmware 4.07, harbour works"


def frames(bus, path):
    with open(path, encoding="utf-8") as file:
        sent = json.load(file)
    print("ready", flush=True)
    for frame in sent:
        data = bytes.fromhex(frame["data"])
        bus.send(can.Message(arbitration_id=frame["id"], is_extended_id=frame["extended"], data=data))
    heard = 0
    while heard < len(sent):
        message = bus.recv(timeout=20)
        if message is None:
            sys.exit("nothing came for twenty seconds")
        heard += 1
        frame = {
            "id": message.arbitration_id,
            "extended": message.is_extended_id,
            "data": bytes(message.data).hex(),
        }
        print(json.dumps(frame), flush=True)


def unit(bus):
    def say(data):
        bus.send(can.Message(arbitration_id=0x7A8, is_extended_id=False, data=data.ljust(8, b"\xaa")))

    def answer(payload):
        if len(payload) <= 7:
            say(bytes([len(payload)]) + payload)
            return
        say(bytes([0x10 | len(payload) >> 8, len(payload) & 0xFF]) + payload[:6])
        flow = bus.recv(timeout=5)
        while flow is not None and (flow.arbitration_id != 0x7A0 or flow.data[0] >> 4 != 3):
            flow = bus.recv(timeout=5)
        rest, number = payload[6:], 1
        while rest:
            say(bytes([0x20 | number & 0xF]) + rest[:7])
            rest, number = rest[7:], number + 1

    bus.send(can.Message(arbitration_id=0x7AF, is_extended_id=False, data=b"\x01"))
    print("ready", flush=True)
    while True:
        message = bus.recv(timeout=60)
        if message is None:
            return
        if message.arbitration_id != 0x7A0 or message.is_extended_id or message.data[0] >> 4 != 0:
            continue
        asked = bytes(message.data[1 : 1 + message.data[0]])
        if asked[:1] == b"\x22":
            answer(b"\x62" + asked[1:3] + TEXT if asked[1:3] == b"\xf1\x89" else b"\x7f\x22\x31")
        else:
            answer(b"\x7f" + asked[:1] + b"\x11")


try:
    with can.Bus(sys.argv[1], interface="slcan", bitrate=500000, sleep_after_open=0) as node:
        if sys.argv[2] == "frames":
            frames(node, sys.argv[3])
        else:
            unit(node)
except can.CanError:
    # A unit is over when its line is taken away.
    if sys.argv[2] == "frames":
        raise
