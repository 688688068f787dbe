"""The keeper: one thread for the file, everything in order, errors to whoever asked."""

from __future__ import annotations

import threading

import pytest

from zeotherm.core.machine.documents import Job
from zeotherm.shop.errors import ShopError
from zeotherm.shop.workshops.keeper import Keeper
from zeotherm.shop.workshops.workshop import Workshop


@pytest.fixture
def keeper(tmp_path):
    made = Keeper(tmp_path / "w.zeotherm")
    yield made
    made.close()


def test_all_is_done_in_order_in_one_thread(keeper):
    key = keeper.ask(lambda workshop: workshop.add(Job(machine="First")))
    gate, threads = threading.Event(), set()
    keeper.do(lambda _workshop: gate.wait(10.0))
    receipts = [
        keeper.do(lambda workshop, n=n: threads.add(threading.get_ident())
                  or workshop.edit(key, Job(machine=f"Edit {n}"), "edit"))
        for n in range(20)
    ]  # fmt: skip
    assert not any(one.done() for one in receipts), "whoever asks goes on"
    gate.set()
    assert keeper.ask(lambda workshop: workshop.job(key)).machine == "Edit 19"
    assert all(one.done() for one in receipts)
    assert len(threads) == 1
    assert threading.get_ident() not in threads


def test_what_goes_wrong_is_told_to_whoever_asked_and_the_next_is_done(keeper):
    lost = keeper.do(lambda workshop: workshop.edit(99, Job(), "edit"))
    assert "Job 99 is not in" in str(lost.exception())
    assert keeper.ask(Workshop.keys) == []


def test_closing_waits_for_what_was_given(tmp_path):
    keeper, gate = Keeper(tmp_path / "w.zeotherm"), threading.Event()
    keeper.do(lambda _workshop: gate.wait(10.0))
    written = keeper.do(lambda workshop: workshop.add(Job(machine="Late")))
    threading.Timer(0.1, gate.set).start()
    keeper.close()
    assert written.done()
    again = Workshop(tmp_path / "w.zeotherm")
    assert [job.machine for _key, job in again.jobs()] == ["Late"]
    again.close()


def test_a_file_that_cannot_be_used_says_so_and_leaves_no_thread(tmp_path):
    (tmp_path / "w.zeotherm").write_bytes(b"SQLite format 3" + b"x" * 200)
    before = threading.active_count()
    with pytest.raises(ShopError):
        Keeper(tmp_path / "w.zeotherm")
    assert threading.active_count() == before


def test_one_that_is_held_elsewhere_is_for_reading_and_says_why(tmp_path):
    first = Keeper(tmp_path / "w.zeotherm")
    second = Keeper(tmp_path / "w.zeotherm")
    assert (first.reading, second.reading) == (False, True)
    assert second.refusal.startswith("Not written: ")
    assert not first.refusal
    second.close()
    first.close()
