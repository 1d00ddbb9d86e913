# SPDX-License-Identifier: GPL-3.0-or-later
# Makes edid.txt: blocks of invented panels, and what edid-decode (Debian, package edid-decode) reads of them.
#   python3 make_edid.py > edid.txt
# Lines: "edid HEX", then of that panel "name TEXT", "mode WIDTH HEIGHT HZ" for each timing that is not interlaced,
# "limits LOW HIGH" (range limits of a continuous panel), "vrr LOW HIGH", "adaptive LOW HIGH", "seamless LOW HIGH".
import os
import random
import re
import subprocess
import tempfile


def summed(block):
    block = bytearray(block.ljust(128, b"\0"))
    block[127] = -sum(block[:127]) % 256
    return bytes(block)


def dtd(width, height, hz, blank_x, blank_y, interlaced=False):
    clock = round((width + blank_x) * (height + blank_y) * hz / 10000) // (2 if interlaced else 1)
    return bytes([clock & 255, clock >> 8, width & 255, blank_x & 255, (width >> 8) << 4 | blank_x >> 8, height & 255,
                  blank_y & 255, (height >> 8) << 4 | blank_y >> 8, 8, 32, 0x35, 0, 0, 0, 0, 0, 0,
                  0x1A | (0x80 if interlaced else 0)])


def base(timings, name, limits, continuous, extensions, standard, established):
    b = bytearray(128)
    b[0:8] = bytes([0, 255, 255, 255, 255, 255, 255, 0])
    b[8:24] = bytes([0x32, 0x1A, 0, 0, 0, 0, 0, 0, 1, 34, 1, 4, 0xB5, 60, 34, 120])
    b[24] = 2 | continuous
    b[35:38] = bytes(established)
    for i in range(8):
        b[38 + 2 * i:40 + 2 * i] = bytes(standard[i] if i < len(standard) else (1, 1))
    descriptors = list(timings)
    descriptors.append(bytes([0, 0, 0, 0xFC, 0]) + (name.encode() + b"\n").ljust(13, b" ")[:13])
    if limits:
        low, high = limits
        beyond = 2 if high > 255 else 0
        descriptors.append(bytes([0, 0, 0, 0xFD, beyond, low, high - 255 if beyond else high, 30, 200, 60, 1, 10, 32, 32,
                                  32, 32, 32, 32]))
    while len(descriptors) < 4:
        descriptors.append(bytes([0, 0, 0, 0x10]) + bytes(14))
    b[54:126] = b"".join(descriptors[:4])
    b[126] = extensions
    return summed(b)


def cta(vics, timings, vrr):
    data = bytes([2 << 5 | len(vics)]) + bytes(vics) if vics else b""
    if vrr:
        payload = bytes([0xD8, 0x5D, 0xC4, 1, 120, 0x80, 0, 0, vrr[0] | (vrr[1] >> 8) << 6, vrr[1] & 255])
        data += bytes([3 << 5 | len(payload)]) + payload
    return summed(bytes([2, 3, 4 + len(data), 0x80]) + data + b"".join(timings))


def long_timing(kind, width, height, hz, blank_x, blank_y, preferred):
    unit = 10000 if kind == 0x03 else 1000
    clock = round((width + blank_x) * (height + blank_y) * hz / unit) - 1
    words = [width - 1, blank_x - 1, 7, 31, height - 1, blank_y - 1, 2, 4]
    return clock.to_bytes(3, "little") + bytes([0x80 if preferred else 0]) + b"".join(w.to_bytes(2, "little") for w in words)


def display_id(kind, timings, adaptive, seamless):
    blocks = b""
    if timings:
        payload = b"".join(long_timing(kind, *t) for t in timings)
        blocks += bytes([kind, 0, len(payload)]) + payload
    if adaptive:
        low, high = adaptive
        blocks += bytes([0x2B, 0, 6, 0, 0, low, (high - 1) & 255, (high - 1) >> 8, 0])
    if seamless:
        low, high = seamless
        blocks += bytes([0x25, 0, 9, 1, 0, 0, 255, 255, 0, low, high & 255, high >> 8 | 0x80])
    version = 0x13 if kind == 0x03 else 0x20
    section = bytes([version, len(blocks), 3 if version == 0x13 else 2, 0]) + blocks
    section += bytes([-sum(section) % 256])
    return summed(b"\x70" + section)


def panel(draw):
    native = draw.choice([(1920, 1080), (2560, 1440), (3440, 1440), (1920, 1200), (1280, 800), (2560, 1600)])
    blank = lambda: (draw.choice([80, 160, 200, 280]), draw.choice([22, 36, 40, 60]))
    timing = lambda w, h, hz: (w, h, hz, *blank())
    rates = draw.sample([59.94, 60, 74.97, 90, 100, 119.88, 120, 143.97], 3)
    first = [dtd(*timing(*native, min(r, 600e6 / native[0] / native[1] * 0.9))) for r in rates[:draw.randint(1, 2)]]
    high = draw.choice([75, 100, 120, 144, 165, 240, 280])
    limits = draw.choice([None, (48, high), (40, high)])
    extensions = []
    if draw.random() < 0.7:
        extra = [dtd(*timing(*native, 60 + 5 * k)) for k in range(draw.randint(0, 2))]
        if draw.random() < 0.3:
            extra.append(dtd(1920, 540, 60, 280, 22, True))
        vics = draw.sample([1, 3, 4, 5, 16, 19, 20, 31, 32, 34, 39, 47, 63, 64, 78, 90, 92, 93, 97, 102, 107, 111, 117, 118,
                            120, 126, 127, 193, 199, 201, 218, 219], draw.randint(0, 12))
        if draw.random() < 0.5:
            vics = [v + 128 if v <= 64 and draw.random() < 0.2 else v for v in vics]
        extensions.append(cta(vics, extra, draw.choice([None, None, (48, 144), (40, 300)])))
    if draw.random() < 0.6:
        kind = draw.choice([0x03, 0x22])
        fast = [(*native, draw.choice([144, 165, 240, 280.5]), *blank(), k == 0) for k in range(draw.randint(0, 3))]
        new = kind == 0x22
        extensions.append(display_id(kind, fast, draw.choice([None, (48, 240), (30, 360)]) if new else None,
                                     draw.choice([None, (48, 165)]) if new else None))
    standard = [(draw.choice([129, 149, 169, 209]), draw.choice([0x40, 0x80, 0xC0])) for _ in range(draw.randint(0, 4))]
    established = (draw.randint(0, 255), draw.randint(0, 255), draw.choice([0, 128]))
    name = draw.choice(["Brine 27", "Sandpiper", "Tern 34 wide", "Dunlin", "Marsh 16"])
    return base(first, name, limits, int(draw.random() < 0.7), len(extensions), standard, established) + b"".join(
        extensions)


def decoded(edid):
    with tempfile.NamedTemporaryFile(delete=False) as file:
        file.write(edid)
    said = subprocess.run(["edid-decode", "--skip-hex-dump", file.name], capture_output=True, text=True).stdout
    os.unlink(file.name)
    continuous = "Display is continuous frequency" in said
    for line in said.splitlines():
        if m := re.search(r"Display Product Name: '(.*?)'", line):
            yield f"name {m[1]}"
        elif (m := re.search(r"Monitor ranges .*?: (\d+)-(\d+) Hz V", line)) and continuous:
            yield f"limits {m[1]} {m[2]}"
        elif m := re.search(r"VRRmin: (\d+) Hz", line):
            low = m[1]
        elif m := re.search(r"VRRmax: (\d+) Hz", line):
            yield f"vrr {low} {m[1]}"
        elif m := re.search(r"^\s+[^:]*:\s+(\d+)x(\d+)(i?)\s+([\d.]+) Hz", line):
            if not m[3]:
                yield f"mode {m[1]} {m[2]} {m[4]}"
        elif m := re.search(r"Min(?:imum)? [Rr]efresh [Rr]ate: (\d+) Hz", line):
            lowest = m[1]
        elif m := re.search(r"Max(?:imum)? [Rr]efresh [Rr]ate: (\d+) Hz", line):
            yield f"adaptive {lowest} {m[1]}"
        elif m := re.search(r"Minimum Vertical Refresh Rate: (\d+) Hz", line):
            slowest = m[1]
        elif m := re.search(r"Maximum Vertical Refresh Rate: (\d+) Hz", line):
            fastest = m[1]
        elif "Seamless Dynamic Video Timing Support: Yes" in line:
            yield f"seamless {slowest} {fastest}"


draw = random.Random(20261128)
print("# Made by make_edid.py with edid-decode of Debian 12; the panels are invented.")
for _ in range(60):
    edid = panel(draw)
    print("edid", edid.hex())
    for line in decoded(edid):
        print(line)
