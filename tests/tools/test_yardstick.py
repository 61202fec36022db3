"""Benchmarks: what a busy machine and an earlier table let a row say."""

from pathlib import Path

import pytest

import bench.__main__ as bench
from bench.yardstick import Meanwhile, Watch, earlier_rows, yardstick

TABLE = """# Benchmarks

Words with a | in them.

| what | measured | ratio | budget | | meanwhile |
|---|---|---|---|---|---|
| quick | 1 ms / 2 ms | 0.500 | ≤ 1 |  | 0.1 s of processor |
| rich | 6 / 5 | 1.200 | ≥ 5 | over | 0.1 s of processor |
| noted | 7 ms | | | | |
| quick | 3 ms / 2 ms | 1.500 | ≤ 1 | over | |

| another | table |
|---|---|
| quick | 9 |
"""


def test_a_table_is_read_for_what_has_an_upper_budget(tmp_path: Path) -> None:
    path = tmp_path / "BENCHMARKS.md"
    path.write_text(TABLE)
    assert earlier_rows(path) == {"quick": 0.5}
    assert earlier_rows(tmp_path / "none.md") == {}


def test_a_machine_is_busy_by_others_or_by_the_computer_beneath() -> None:
    assert not Meanwhile(1.0, 0.14, 0.04).is_busy
    assert Meanwhile(0.1, 0.2, 0.0).is_busy
    assert Meanwhile(0.1, 0.0, 0.06).is_busy
    assert str(Meanwhile(1.0, 0.2, 0.0)) == "1.0 s of processor, others 20%, taken beneath 0%"


def test_counters_add_up() -> None:
    watch = Watch()
    yardstick()
    meanwhile = watch.since_last()
    assert meanwhile.own > 0
    assert 0 <= meanwhile.others <= 1
    assert 0 <= meanwhile.stolen <= 1
    watch.serves = True
    yardstick()
    assert watch.since_last().others == 0


@pytest.mark.parametrize(
    ("ratio", "others", "timed", "verdict"),
    [
        (0.5, 0.0, False, ""), (0.56, 0.0, False, "worse"), (1.2, 0.0, False, "over worse"), (1.2, 0.9, False, "over worse"),
        (1.2, 0.9, True, "busy"), (1.2, 0.0, True, ""), (2.4, 0.0, True, "over worse"),
    ],
)  # fmt: skip
def test_a_row_says_over_busy_and_worse(
    monkeypatch: pytest.MonkeyPatch, ratio: float, others: float, timed: bool, verdict: str
) -> None:
    """On a machine on which everything takes twice as long, what is judged by the clock may."""
    rows: list[str] = []

    class Quiet:
        def since_last(self) -> Meanwhile:
            return Meanwhile(0.1, others, 0.0)

    monkeypatch.setattr(bench, "ROWS", rows)
    monkeypatch.setattr(bench, "WATCH", Quiet())
    monkeypatch.setattr(bench, "EARLIER", {"quick": 0.5} if not timed or ratio > 2 else {})
    monkeypatch.setattr(bench, "yardstick", lambda: 2.0 if others == 0 else 1.0)
    bench.report("quick", "so much", ratio, 1.0, timed=timed)
    assert [cell.strip() for cell in rows[0].split("|")][5] == verdict
