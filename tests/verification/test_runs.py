"""Runs of a printer that is richer than the model: is what is stated of their differences true?"""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np
import pytest

from tests.verification.virtual_pairs import CHANGES, pair, truth
from zeotherm.core.catalogue import shipped
from zeotherm.core.runs.alignment import automatic, by_level, by_likeness
from zeotherm.core.runs.series import Series, Trace
from zeotherm.core.runs.settling import settle
from zeotherm.core.runs.thermal_picture import ThermalPicture, corrected
from zeotherm.shop.files.series_files import read_series

Told = list[tuple[str, float, float, bool, float | None]]


def told(seed: int) -> tuple[int, Told]:
    """What is stated of one pair, beside the truth."""
    index = seed % len(CHANGES)
    true = truth(index)
    rows = pair(seed, index).rows
    return index, [
        (f"{row.kind} {row.channel} {row.other}".strip(), row.change.value, row.change.half, row.change.real,
         true.get((row.kind, row.channel, row.other)))
        for row in rows if row.change is not None
    ]  # fmt: skip


@pytest.mark.verify
@pytest.mark.timeout(900)
def test_stated_changes_cover_the_truth(record: Callable[..., None], request: pytest.FixtureRequest):
    """200 pairs when recorded, 40 otherwise, over eight changes; every eighth pair is of two equal machines."""
    whole = request.config.getoption("--record")
    count = 200 if whole else 40
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        found = list(pool.map(told, range(count), chunksize=4))
    by_figure: dict[str, list[bool]] = {}
    false = []
    for index, rows in found:
        for name, value, half, real, true in rows:
            if true is not None:
                by_figure.setdefault(name, []).append(abs(value - true) <= half)
            if index == 0:
                false.append(real)
    every = np.mean([hit for hits in by_figure.values() for hit in hits])
    least = min(by_figure, key=lambda name: float(np.mean(by_figure[name])))
    record("Stated ± of a change covers the truth", f"{count} pairs of the virtual printer, {len(by_figure)} figures",
           f"{every:.1%}, least {np.mean(by_figure[least]):.0%} ({least})", "90 to 99 %, each ≥ 85 %")  # fmt: skip
    record(
        "'yes' between two equal machines",
        f"{len(false)} figures of {count // 8} pairs",
        f"{np.mean(false):.1%}",
        "5 %",
    )
    assert 0.90 <= every <= 0.995
    assert np.mean(false) <= 0.05
    assert np.mean(by_figure[least]) >= (0.85 if whole else 0.8)


def climb(times: np.ndarray, on: float, quicker: float = 1.0) -> np.ndarray:
    """A heated part from its switching on, held at 60 °C."""
    return np.minimum(20.0 + 110.0 * (1.0 - np.exp(-np.clip(times - on, 0.0, None) * quicker / 500.0)), 60.0)


def two_runs(rng: np.random.Generator) -> tuple[Series, Series, float, float]:
    """Two noisy runs of 12 % unequal speed with their own samplings: both, the true shift, the coarser interval."""
    steps, shift = rng.choice([1.0, 2.0, 5.0, 10.0], 2), float(rng.uniform(-300, 300))
    made = []
    for step, on, quicker in zip(steps, (400.0, 400.0 + shift), (1.0, 1.12), strict=True):
        times = np.arange(0.0, 1500.0, step) + rng.uniform(0, step)
        made.append(Series(times, {"bed": climb(times, on, quicker) + rng.normal(0, 0.3, len(times))}, None))
    return made[0], made[1], shift, float(steps.max())


@pytest.mark.verify
@pytest.mark.parametrize("way", ["automatic", "likeness", "level"])
def test_runs_line_up_within_a_sample_or_two_sigma(way: str, record: Callable[..., None]):
    rng = np.random.default_rng(11)
    errors, outside = [], 0
    count = 40 if way == "likeness" else 200
    for _case in range(count):
        one, other, shift, step = two_runs(rng)
        first, second = automatic([one, other])
        level = 30.0
        if way == "likeness":
            found = by_likeness(other, one, first.zero, "bed", 900.0)
            assert found is not None
            second = found
        elif way == "level":
            lines = by_level(one, "bed", level), by_level(other, "bed", level)
            assert lines[0] is not None
            assert lines[1] is not None
            first, second = lines
            shift += 500.0 * np.log(1.0 - 10.0 / 110.0) * (1.0 - 1.0 / 1.12)
        error = second.zero - first.zero - shift
        errors.append(error)
        outside += abs(error) > max(step, 2.0 * np.hypot(first.doubt, second.doubt))
    record(f"Lining up, {way}", f"{count} noisy pairs of 12 % unequal speed",
           f"sd {np.std(errors):.2f} s, {outside / count:.1%} beyond a sample or 2 sigma", "5 %")  # fmt: skip
    assert outside <= 0.05 * count


def test_the_end_of_a_curve_stopped_at_one_time_constant(record: Callable[..., None]):
    rng = np.random.default_rng(5)
    inside, widths = 0, []
    count = 300
    for _case in range(count):
        tau, end = rng.uniform(600, 3000), rng.uniform(35, 70)
        times = np.arange(0.0, tau, rng.choice([2, 5, 20]))
        values = np.round(end + (20.0 - end) * np.exp(-times / tau) + rng.normal(0, 0.15, len(times)), 1)
        found = settle(Trace.of(times, values))
        assert found is not None
        inside += found.end_low <= end <= found.end_high
        widths.append(found.half / (end - 20.0))
    record("End value from a run stopped at one time constant", f"{count} noisy exponentials",
           f"{inside / count:.1%} inside its band, band ±{np.median(widths):.1%} of the rise", "90 %")  # fmt: skip
    assert inside >= 0.9 * count


def test_a_long_fit_gives_the_exact_end_to_rounding(record: Callable[..., None]):
    times = np.arange(0.0, 6000.0, 5.0)
    found = settle(Trace.of(times, 55.0 - 35.0 * np.exp(-times / 1200.0)))
    assert found is not None
    record("Exponential without noise", "its own law", f"end {abs(found.end - 55.0):.1e} K off", "0.01 K")
    assert found.end == pytest.approx(55.0, abs=0.01)


def test_emissivity_of_a_known_patch(record: Callable[..., None]):
    """A patch of 80 °C at emissivities of 0.3 to 1 in surroundings of 15 to 35 °C; the camera sees Stefan's law."""
    worst = 0.0
    for emissivity in (0.3, 0.5, 0.8, 0.95):
        for mirrored in (15.0, 35.0):
            seen = (emissivity * 353.15**4 + (1 - emissivity) * (mirrored + 273.15) ** 4) ** 0.25 - 273.15
            found = corrected(ThermalPicture(np.array([[seen]]), 0, 0), emissivity, mirrored)[0, 0]
            worst = max(worst, abs(found - 80.0))
    record("Emissivity correction", "a patch of known temperature", f"{worst:.0e} K", "0.001 K")
    assert worst < 1e-3


@pytest.mark.timeout(120)
def test_a_million_rows(tmp_path, record: Callable[..., None]):
    """How long it takes is measured in the benchmarks; here that nothing is lost."""
    path = tmp_path / "long.csv"
    rows = np.arange(1_000_000)
    cells = (f"{n},{20 + n % 977 / 100:.2f},{n % 60},{230 + n % 3}\n" for n in rows.tolist())
    path.write_text("time,bed,case,voltage\n" + "".join(cells))
    heard: list[float] = []
    begin = time.perf_counter()
    read = read_series(path, shipped(), progress=heard.append)
    took = time.perf_counter() - begin
    assert read.series.rows == 1_000_000
    assert read.series.values["bed"].sum() == pytest.approx(float((20 + rows % 977 / 100).sum()), rel=1e-9)
    assert len(heard) >= 10
    assert heard[-1] == 1.0
    record("A million rows of four columns", "their own sum", f"equal to 1e-9, read in {took:.1f} s", "1e-9")
