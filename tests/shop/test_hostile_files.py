"""Files that nobody should have sent: refused kindly, never a crash, a wait, or a number made up."""

from __future__ import annotations

import contextlib
import gzip
import io
import os
import struct
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from zeotherm.core.catalogue import shipped
from zeotherm.core.runs.fan_sound import NoToneError, blade_pass
from zeotherm.shop.errors import ShopError
from zeotherm.shop.files.arrivals import kind_of
from zeotherm.shop.files.asking import UnsureError
from zeotherm.shop.files.job_files import read_job
from zeotherm.shop.files.part_programs import read_part_program
from zeotherm.shop.files.picture_files import PictureScale, read_picture
from zeotherm.shop.files.series_files import read_parts
from zeotherm.shop.files.shelf_files import Shelf, taken_in
from zeotherm.shop.files.sound_files import read_sound

READERS: dict[str, Callable[[Path], object]] = {
    "log": lambda path: read_parts(path, shipped()),
    "picture": lambda path: read_picture(path, PictureScale(low=0, high=99)),
    "sound": read_sound, "program": read_part_program, "job": read_job, "kind": kind_of,
    "shelf": lambda path: taken_in(path, Shelf()),
}  # fmt: skip
FUZZED = settings(max_examples=120, deadline=2000, suppress_health_check=[HealthCheck.function_scoped_fixture])


def refused(read: Callable[[Path], object], path: Path) -> str:
    with pytest.raises(ShopError) as wrong:
        read(path)
    assert str(wrong.value).endswith(".")
    return str(wrong.value)


@pytest.mark.parametrize("name", ["log", "picture", "sound", "program", "job", "shelf"])
def test_pipes_devices_folders_and_huge_files(tmp_path, name):
    read = READERS[name]
    pipe = tmp_path / "pipe.csv"
    os.mkfifo(pipe)
    assert "pipe or a device" in refused(read, pipe)
    assert "pipe or a device" in refused(read, Path("/dev/zero"))
    assert "folder" in refused(read, tmp_path)
    assert "no file" in refused(read, tmp_path / "none.csv")
    sparse = tmp_path / "sparse.csv"
    with sparse.open("wb") as file:
        file.truncate(10_000_000_000)
    assert "10000 MB" in refused(read, sparse)


def test_archives_and_bombs(tmp_path):
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("log.csv", b"0" * 50_000_000)
    (tmp_path / "bomb.zip").write_bytes(bomb.getvalue())
    (tmp_path / "bomb.csv.gz").write_bytes(gzip.compress(b"0" * 50_000_000))
    for name in ("bomb.zip", "bomb.csv.gz"):
        for reader in ("log", "picture", "program", "job"):
            assert "npack" in refused(READERS[reader], tmp_path / name)
    huge = b"\x89PNG\r\n\x1a\n" + _chunk(b"IHDR", struct.pack(">IIBBBBB", 60000, 60000, 16, 0, 0, 0, 0))
    (tmp_path / "huge.png").write_bytes(huge + _chunk(b"IDAT", b"") + _chunk(b"IEND", b""))
    assert "million" in refused(READERS["picture"], tmp_path / "huge.png")


def _chunk(kind: bytes, data: bytes) -> bytes:
    import zlib

    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def test_a_million_columns(tmp_path):
    path = tmp_path / "wide.csv"
    path.write_text(",".join(f"c{n}" for n in range(1_000_000)) + "\n" + ",".join("1" * 1_000_000) + "\n")
    assert "1,000,000 columns" in refused(READERS["log"], path)


CELL = st.one_of(
    st.floats().map(str), st.integers(-(10**30), 10**30).map(str), st.text(max_size=6),
    st.sampled_from(["", "nan", "-", "1,5", "1.2.3", "9:30", "24:61", "2026-02-30", "1_000", "0x10", "१२", "1e999"]),
)  # fmt: skip
HEADS = st.lists(
    st.sampled_from(["time", "bed", "T0", "W", "V", "pf", "kWh", "sink base [F]", "x", "", "bed duty [%]", "bed [V]"]),
    min_size=1, max_size=6,
)  # fmt: skip


@given(HEADS, st.lists(st.lists(CELL, max_size=7), max_size=12), st.sampled_from([",", ";", "\t", "|"]))
@FUZZED
def test_any_table_is_read_or_refused(tmp_path, head, rows, mark):
    path = tmp_path / "log.csv"
    path.write_text(mark.join(head) + "\n" + "\n".join(mark.join(row) for row in rows), encoding="utf-8",
                    errors="surrogatepass")  # fmt: skip
    try:
        parts = READERS["log"](path)
    except ShopError:
        return
    for part in parts:
        assert (np.diff(part.series.time) >= 0).all()
        for key, column in part.series.values.items():
            kind = shipped().kinds[shipped().channels[key].kind]
            known = column[np.isfinite(column)]
            assert not np.isinf(column).any()
            if key != "power":
                assert ((known >= kind.low) & (known <= kind.high)).all()


STARTS = (b"", b"RIFF\x24\0\0\0WAVEfmt ", b"\x89PNG\r\n\x1a\n", b"II*\0", b"T:20 /0 B:20 /0\n", b"G1 X", b"{")


@given(st.binary(max_size=400), st.sampled_from(list(READERS)), st.sampled_from(STARTS))
@FUZZED
def test_any_bytes_are_read_or_refused(tmp_path, data, name, start):
    path = tmp_path / "file.dat"
    path.write_bytes(start + data)
    with contextlib.suppress(ShopError):
        READERS[name](path)


@given(st.text(alphabet="GMXYZEFSIJ0123456789.- ;()\n*N", max_size=300))
@FUZZED
def test_any_code_is_read_or_refused(tmp_path, text):
    path = tmp_path / "part.gcode"
    path.write_text("G1 X10 F600\n" + text)
    with contextlib.suppress(ShopError):
        found = read_part_program(path)
        assert np.isfinite([found.seconds, found.mean_flow, found.most_flow, found.volume_mm3]).all()


@given(st.integers(0, 3000), st.floats(100, 100_000), st.integers(-3, 60))
@settings(max_examples=40, deadline=None)
def test_any_sound_has_a_tone_or_says_why(count, rate, blades):
    with contextlib.suppress(NoToneError):
        blade_pass(np.random.default_rng(count).normal(0, 0.1, count), rate, blades)


@pytest.mark.parametrize("text", [
    "time,bed\n0,20\n1,\u00b230\n2,1.5\n3,21\n", "time,bed\n0,20\n1,2\u00b30\n2,1,5\n", '"\n"\n,\n,"\n,\n',
    "time,bed\ns,\u00b0C,,\n0,20,,\n1,21,,\n2,22,,\n",
])  # fmt: skip
def test_raised_digits_unmatched_quotes_and_empty_ends_of_lines_are_no_crash(tmp_path, text):
    path = tmp_path / "log.csv"
    path.write_text(text, encoding="utf-8")
    with contextlib.suppress(ShopError, UnsureError):
        READERS["log"](path)
