"""The sluice drive of modbus_blocks.md: frames, requests, answers and exceptions are made by the package pymodbus."""
import binascii
import os
import sys

from pymodbus.bit_write_message import WriteSingleCoilRequest
from pymodbus.datastore import ModbusSlaveContext
from pymodbus.factory import ServerDecoder
from pymodbus.framer.rtu_framer import ModbusRtuFramer
from pymodbus.pdu import ModbusExceptions

from pty_unit import Line

START, SIZE, SECTOR = 0x4000, 0x4000, 0x400
FIRMWARE, LOADER, FAULT = 10, 20, 99


class Drive:
    def __init__(self, memory):
        self.path = memory
        self.flash = bytearray(b"\xff" * SIZE)
        if os.path.exists(memory):
            with open(memory, "rb") as file:
                self.flash[:] = file.read().ljust(SIZE, b"\xff")
        self.state = FIRMWARE
        self.words = {}
        self.commands = 0

    def version(self):
        text = bytes(self.flash[:16])
        return text.split(b"fw ")[1].split(b"\0")[0].decode() if text.startswith(b"SD-3 fw ") else ""

    def text(self, register):
        for first, value in ((100, "SD-3"), (104, self.version()), (108, "SD3-042")):
            if first <= register < first + 4:
                data = value.encode().ljust(8, b"\0")
                at = (register - first) * 2
                return data[at] << 8 | data[at + 1]
        return None

    def read(self, register):
        shown = self.text(register)
        if shown is not None:
            return shown
        return self.state if register == 200 else self.words.get(register, 0)

    def value(self, register):
        return self.words.get(register, 0) | self.words.get(register + 1, 0) << 16

    def range(self):
        at, length = self.value(202) - START, self.value(204)
        return (at, length) if at >= 0 and length > 0 and at + length <= SIZE else (None, 0)

    def save(self):
        with open(self.path, "wb") as file:
            file.write(self.flash)

    def command(self, coil):
        """True where it was done; None where the unit is busy; False where it is refused."""
        self.commands += 1
        if self.commands % 3 == 0:
            return None
        if coil == 1:
            self.state = LOADER
            return True
        if self.state != LOADER:
            return False
        if coil == 5:
            self.state = FIRMWARE
            return True
        at, length = self.range()
        if at is None:
            return False
        if coil == 2:
            first, last = at // SECTOR, (at + length - 1) // SECTOR
            self.flash[first * SECTOR : (last + 1) * SECTOR] = b"\xff" * ((last + 1 - first) * SECTOR)
        elif coil == 3:
            crc = binascii.crc32(self.flash[at : at + length])
            self.words[206], self.words[207] = crc & 0xFFFF, crc >> 16
        elif coil == 4:
            data = b"".join(self.words.get(300 + i, 0xFFFF).to_bytes(2, "big") for i in range(64))[:length]
            for i, byte in enumerate(data):
                self.flash[at + i] &= byte
        elif coil == 6:
            data = bytes(self.flash[at : at + length]).ljust(128, b"\xff")
            for i in range(64):
                self.words[300 + i] = data[i * 2] << 8 | data[i * 2 + 1]
        else:
            return False
        self.save()
        return True


class Slave(ModbusSlaveContext):
    """The package's slave with the drive behind its registers and coils."""

    def __init__(self, drive):
        super().__init__(zero_mode=True)
        self.drive = drive

    def validate(self, fc_as_hex, address, count=1):
        if fc_as_hex in (5, 15):
            return 1 <= address <= 6
        return (100 <= address and address + count <= 112) or (200 <= address and address + count <= 364)

    def getValues(self, fc_as_hex, address, count=1):
        if fc_as_hex in (1, 5, 15):
            return [True] * count
        return [self.drive.read(address + i) for i in range(count)]

    def setValues(self, fc_as_hex, address, values):
        if fc_as_hex == 5:
            done = self.drive.command(address)
            if done is None:
                raise Busy()
            if not done:
                raise Refused()
            return
        for i, value in enumerate(values):
            self.drive.words[address + i] = value


class Busy(Exception):
    pass


class Refused(Exception):
    pass


def with_exceptions(request_class):
    """What the store refuses is answered with the exception that the manual says."""
    execute = request_class.execute

    def answer(self, context):
        try:
            return execute(self, context)
        except Busy:
            return self.doException(6)
        except Refused:
            return self.doException(ModbusExceptions.IllegalValue)

    request_class.execute = answer


with_exceptions(WriteSingleCoilRequest)
line = Line(19200)
slave = Slave(Drive(sys.argv[1]))
framer = ModbusRtuFramer(ServerDecoder())


def answer(request):
    response = request.execute(slave)
    response.unit_id, response.transaction_id = request.unit_id, request.transaction_id
    line.write(framer.buildPacket(response))


while True:
    data = os.read(line.master, 4096)
    if line.heard_at() != line.baud:
        continue
    try:
        framer.processIncomingPacket(data, answer, unit=[17])
    except Exception as error:  # A frame that cannot be read is not answered.
        print(f"passed over: {error}", file=sys.stderr)
        framer.resetFrame()
