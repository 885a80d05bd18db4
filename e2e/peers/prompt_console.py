"""The tide gate of prompt_console.md: a prompt without a line end, a buffer in its working memory, burnt by a second command."""
from pty_unit import Flash, Line, memory_file, save

line = Line(115200)
flash = Flash(0x8000, 0x8000, 0x1000)
stage = b""
boot = False
version = "1.3"
level = 1.0


def crc16(data):
    crc = 0xFFFF
    for byte in data:
        crc ^= byte << 8
        for _ in range(8):
            crc = ((crc << 1) ^ 0x1021 if crc & 0x8000 else crc << 1) & 0xFFFF
    return crc


def say(text):
    line.write(text.encode())


say("\r\nTG-4\r\n=> ")
while True:
    words = line.line(b"\r").split()
    prompt = "boot> " if boot else "=> "
    command, numbers = (words[0], words[1:]) if words else ("", [])
    try:
        if command == "":
            pass
        elif command == "ver":
            say("TG-4 board 2\r\nfw " + version + "\r\nserial TG4-0117\r\n")
        elif command == "level" and not boot:
            say(f"level {level:.3f} m\r\n")
            level += 0.001
        elif command == "boot":
            boot, prompt = True, "boot> "
        elif not boot:
            say("?unknown\r\n")
        elif command == "erase":
            address, length = int(numbers[0], 16), int(numbers[1], 16)
            if not flash.holds(address, length):
                say("?range\r\n")
            else:
                total = len(flash.sectors(address, length))
                for done, _ in enumerate(flash.erase(address, length), 1):
                    say(f"erased {done}/{total}\r")
                say("\nok\r\n")
        elif command == "stage":
            length = int(numbers[0])
            if length > 1024:
                say("?too long\r\n")
            else:
                say("send\r\n")
                stage = line.read(length)
                say(f"sum {sum(stage) & 0xFFFF:04x}\r\n")
        elif command == "burn":
            address = int(numbers[0], 16)
            if not flash.holds(address, len(stage)):
                say("?range\r\n")
            else:
                flash.program(address, stage)
                save(flash, memory_file())
                say("ok\r\n")
        elif command == "crc":
            address, length = int(numbers[0], 16), int(numbers[1], 16)
            say(f"{crc16(flash.read(address, length)):04x}\r\n" if flash.holds(address, length) else "?range\r\n")
        elif command == "dump":
            address, length = int(numbers[0], 16), int(numbers[1], 16)
            for at in range(address, address + length, 16):
                row = flash.read(at, min(16, address + length - at))
                text = "".join(chr(byte) if 32 <= byte < 127 else "." for byte in row)
                say(f"{at:06x}: {row.hex(' ')}  |{text}|\r\n")
        elif command == "go":
            boot, version, prompt = False, "1.4", "=> "
        else:
            say("?unknown\r\n")
    except (IndexError, ValueError):
        say("?numbers\r\n")
    say(prompt)
