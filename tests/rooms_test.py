#!/usr/bin/env python3
"""No include climbs: each room includes only rooms below it, the core has no Qt, and nobody but its
own folder, the table and its command knows a method that has a row."""
import pathlib
import re
import sys

ALLOWED = {
    "core": {"core"},
    "store": {"store", "core"},
    "report": {"report", "store", "core"},
    "instrument": {"instrument", "core"},
    "simbench": {"simbench", "core"},
    "demo": {"demo", "store", "simbench", "core"},
    "cli": {"cli", "report", "store", "core"},
    "app": {"app", "report", "store", "instrument", "simbench", "demo", "core"},
}
root = pathlib.Path(__file__).resolve().parent.parent
wrong = []
for room, allowed in ALLOWED.items():
    files = [f for f in (root / room).rglob("*") if f.suffix in {".h", ".cpp"}]
    if not files:
        wrong.append(f"{room}: no source files found")
    for file in files:
        for number, line in enumerate(file.read_text().splitlines(), 1):
            quoted = re.match(r'\s*#include\s+"([^"/]+)/', line)
            if quoted and quoted[1] in ALLOWED and quoted[1] not in allowed:
                wrong.append(f"{file.relative_to(root)}:{number}: {room} looks up at {quoted[1]}")
            if room not in {"app", "instrument"} and re.match(r"\s*#include\s+<(Q[A-Z]|qcustomplot)", line):
                wrong.append(f"{file.relative_to(root)}:{number}: {room} includes Qt")
# The methods of the table: their folders under core/method/, where `measure` is what several share,
# and those of their ids that are no common word.
SHARED = {"measure"}
IDS = {"two_tone", "noise", "bandwidth", "purity", "first_power", "phase_noise", "noise_setting", "loop", "reciprocal", "reference",
       "adjust", "drift", "stability", "lock", "receiver", "survey", "sensitivity", "conversion", "indicator", "gain", "response"}
folders = {f.name for f in (root / "core/method").iterdir() if f.is_dir()} - SHARED
table = (root / "core/method/method_table.cpp").read_text()
for folder in folders:
    if f'"core/method/{folder}/' not in table:
        wrong.append(f"core/method/{folder}: no method of it is in the table")
for name in IDS:
    if f'{{"{name}"' not in table:
        wrong.append(f"{name}: no row of the table")
for room in ("core", "store", "report", "instrument", "simbench", "app"):
    for file in (f for f in (root / room).rglob("*") if f.suffix in {".h", ".cpp"}):
        place = str(file.relative_to(root))
        if place == "core/method/method_table.cpp":
            continue
        for number, line in enumerate(file.read_text().splitlines(), 1):
            for folder in re.findall(r'"core/method/([a-z_]+)/', line):
                if folder in folders and not place.startswith(f"core/method/{folder}/"):
                    wrong.append(f"{place}:{number}: knows the method in core/method/{folder}")
            if room != "core" and any(f'"{name}"' in line for name in IDS):
                wrong.append(f"{place}:{number}: names a method")
            # Remarks are made where they can be tested, and are the same everywhere.
            if room not in {"core", "instrument"} and re.search(r"Severity::\w+,", line):
                wrong.append(f"{place}:{number}: makes a remark")
# Many files of a room are compiled in one go: a constant of one is seen by the next.
for room in ("core", "store", "report", "instrument", "simbench", "cli", "demo", "app"):
    seen = {}
    for file in sorted((root / room).rglob("*.cpp")):
        for line in file.read_text().splitlines():
            found = re.match(r"(?:static |inline )?constexpr [\w:<>,* &]*?\b(k[A-Z]\w*)\b", line)
            if not found:
                continue
            other = seen.setdefault(found[1], file)
            if other != file:
                wrong.append(f"{file.relative_to(root)}: {found[1]} is also in {other.relative_to(root)}; name it apart")
print("\n".join(wrong) if wrong else "rooms look only downward")
sys.exit(1 if wrong else 0)
