"""A byte-level fuzzer of every reader, outside the test run: python -m tests.fuzz_readers [files] [seed].

Sound files of each kind are cut, doubled, spliced and bit-flipped. A reader may return or refuse; anything else, and
anything that takes five seconds of the processor, is kept beside and counted, as are the rows that a log says it left
out.
"""

from __future__ import annotations

import io
import random
import sys
import tempfile
import time
import traceback
from collections import Counter
from pathlib import Path

import numpy as np
from PIL import Image

from tests.shop.test_dialects import DIALECTS
from tests.shop.test_hostile_files import READERS
from tests.shop.test_run_files import false_colour
from zeotherm.core.catalogue import shipped
from zeotherm.core.machine.measured import Measured
from zeotherm.core.runs.assembly import assembled
from zeotherm.core.runs.fan_sound import NoToneError, blade_pass
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.asking import UnsureError
from zeotherm.shop.files.own_entries import WORK, read_own
from zeotherm.shop.files.series_files import ReadLog, as_run
from zeotherm.shop.files.sound_files import write_sound
from zeotherm.shop.places import demo_jobs
from zeotherm.shop.practice.virtual_printer import fan_sound, thermal_picture

SLOW_S = 5.0
DOORS = {**READERS, "dialect": READERS["log"], "own": lambda path: read_own(WORK, path)}
TOKENS = (b",", b";", b"\n", b"nan", b"1e308", b"-", b"\0", b"\xff\xfe", b"time", b"T:", b"E", b"9999999999", b'"')


def seeds(folder: Path) -> dict[str, list[bytes]]:
    """Sound files of each kind."""
    demo = demo_jobs()[0].parent
    picture = thermal_picture(60.0, 20.0, width=80, height=60)
    images = []
    for form, pixels in (("PNG", false_colour(picture, 15.0, 70.0)), ("TIFF", (picture * 100).astype(np.uint16)),
                         ("JPEG", false_colour(picture, 15.0, 70.0))):  # fmt: skip
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, form)
        images.append(out.getvalue())
    write_sound(folder / "fan.wav", fan_sound(4200.0, 7, seconds=0.7), 16000)
    log = (demo / "2-curlew-run1.csv").read_bytes()
    console = b"".join(
        b"12:00:%02d ok T:%d.5 /200.0 B:%d /60.0 @:%d B@:9\n" % (n, 20 + n, 20 + n, n) for n in range(40)
    )
    return {
        "log": [log[:4000], log.replace(b",", b";")[:3000], console, b"time,V,A,pf\n0,230,1,0.9\n1,230,1,0.9\n"],
        "picture": [*images, (demo / "2-curlew-picture1.csv").read_bytes()[:6000]],
        "sound": [(folder / "fan.wav").read_bytes()],
        "program": [b"G28\nM104 S200\nG1 X10 E1 F600\nG2 X20 Y0 I5 J0 E1\nG1 E-1\nG92 E0\n" * 12],
        "dialect": [text.encode("utf-8") if isinstance(text, str) else text for text, *_rest in DIALECTS.values()],
        "own": [b'[causes.fan_dead]\nprior = 0.2\n\n[cautions.unplugged]\nsign = "mains"\n' * 3],
        "job": [path.read_bytes() for path in demo_jobs()],
        "kind": [log[:500], images[0][:500]],
    }


def mutated(data: bytes, rng: random.Random) -> bytes:
    """A few wounds."""
    found = bytearray(data)
    for _wound in range(rng.choice((1, 1, 2, 4, 12))):
        at = rng.randrange(len(found) + 1)
        what = rng.randrange(6)
        if what == 0 and found:
            found[at % len(found)] ^= 1 << rng.randrange(8)
        elif what == 1:
            found[at:at] = rng.choice(TOKENS)
        elif what == 2:
            del found[at : at + rng.randrange(1, 60)]
        elif what == 3:
            other = rng.randrange(len(found) + 1)
            found[at:at] = found[other : other + rng.randrange(1, 200)]
        elif what == 4:
            del found[at:]
        else:
            found[at:at] = bytes(rng.randrange(256) for _n in range(rng.randrange(1, 9)))
    return bytes(found)


def left_out(result: object) -> int:
    """How many rows a log says that it left out."""
    reads = [one for one in result if isinstance(one, ReadLog)]  # type: ignore[attr-defined]
    notes = [note.partition(":") for one in reads for note in one.notes]
    return sum(int(count) for kind, _colon, count in notes if kind in ("skipped", "dropouts"))


def use(name: str, result: object) -> None:
    """What was read must also bear being used."""
    if name in ("log", "dialect"):
        reads = [one for one in result if isinstance(one, ReadLog)]  # type: ignore[attr-defined]
        runs = {str(index): as_run(one, "log.csv") for index, one in enumerate(reads[:3])}
        assembled(Measured(runs=runs), {key: reads[int(key)].series for key in runs}, shipped())
    elif name == "sound":
        blade_pass(*result, 7)  # type: ignore[misc]


def main() -> int:
    """Fuzz so many files and report counts; one for every failure that is new."""
    files, seed = int((sys.argv[1:] or ["10000"])[0]), int((sys.argv[2:] or ["1"])[0])
    rng = random.Random(seed)
    counts: Counter[str] = Counter()
    failures: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        kinds = seeds(Path(folder))
        path = Path(folder) / "fuzzed.csv"
        for _file in range(files):
            name = rng.choice(list(kinds))
            data = mutated(rng.choice(kinds[name]), rng)
            path.write_bytes(data)
            begin, broken = time.process_time(), len(failures)
            try:
                result = DOORS[name](path)
                use(name, result)
                if name in ("log", "dialect"):
                    counts["rows left out"] += left_out(result)
                counts[f"{name} read"] += 1
            except UnsureError:
                counts[f"{name} asked"] += 1
            except (ShopError, NoToneError):
                counts[f"{name} refused"] += 1
            except Exception as wrong:
                where = traceback.extract_tb(wrong.__traceback__)[-1]
                failures[f"{name}: {type(wrong).__name__} in {Path(where.filename).name}:{where.lineno}: {wrong}"] += 1
            if time.process_time() - begin > SLOW_S:
                failures[f"{name}: {time.process_time() - begin:.1f} s"] += 1
            if len(failures) > broken:
                Path(f"fuzz-{name}-{len(failures)}.dat").write_bytes(data)
    print(", ".join(f"{what} {count}" for what, count in sorted(counts.items())), f"all {files}")
    for what, count in failures.most_common():
        print(f"FAILED {count} times: {what}")
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
