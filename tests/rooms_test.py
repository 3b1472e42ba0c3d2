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
# A method of the table: its folder under core/method/, the header that only the table includes, and
# its ids where they are no common word.
METHODS = {"two_tone": ("two_tone_method", ["two_tone"]), "output": ("output_method", []), "spread": ("spread_method", ["noise", "bandwidth"]), "purity": ("purity_method", ["purity"]), "amplifier": ("gain_method", ["first_power"])}
for folder, (header, ids) in METHODS.items():
    if not (root / "core/method" / folder / f"{header}.h").exists():
        wrong.append(f"core/method/{folder}/{header}.h is not there")
    for room in ("core", "store", "report", "instrument", "simbench", "app"):
        for file in (f for f in (root / room).rglob("*") if f.suffix in {".h", ".cpp"}):
            place = str(file.relative_to(root))
            if place.startswith(f"core/method/{folder}/") or place == "core/method/method_table.cpp":
                continue
            for number, line in enumerate(file.read_text().splitlines(), 1):
                if f"method/{folder}/" in line:
                    wrong.append(f"{place}:{number}: knows the method in core/method/{folder}")
                if room != "core" and any(f'"{name}"' in line for name in ids):
                    wrong.append(f"{place}:{number}: names a method of core/method/{folder}")
print("\n".join(wrong) if wrong else "rooms look only downward")
sys.exit(1 if wrong else 0)
