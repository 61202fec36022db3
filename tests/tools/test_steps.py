"""What `./run` remembers and how it calls: digests, stamps, logs."""

from pathlib import Path

import pytest

from tools import steps


def test_a_digest_is_of_names_and_contents(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(steps, "ROOT", tmp_path)
    (tmp_path / "a").mkdir()
    (tmp_path / "a" / "one").write_text("1")
    first = steps.digest([tmp_path / "a"])
    assert steps.digest([tmp_path / "a"]) == first
    (tmp_path / "a" / "one").write_text("2")
    second = steps.digest([tmp_path / "a"])
    (tmp_path / "a" / "one").rename(tmp_path / "a" / "two")
    assert len({first, second, steps.digest([tmp_path / "a"])}) == 3


def test_a_step_is_done_once_for_each_key(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(steps, "STATE", tmp_path)
    assert steps.once("build", "k1")
    steps.mark("build", "k1")
    assert not steps.once("build", "k1")
    assert steps.once("build", "k2")
    assert steps.once("other", "k1")


def test_a_call_that_fails_says_the_end_of_its_log_and_what_to_do(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(steps, "LOGS", tmp_path)
    with pytest.raises(steps.StepFailed) as caught:
        steps.call(["sh", "-c", "for n in $(seq 40); do echo line $n; done; exit 7"], log="x", advice="Do this.", folder=tmp_path)
    said = str(caught.value)
    assert "line 40" in said
    assert "line 20\n" not in said
    assert said.endswith("ended with 7. Do this.")
    steps.call(["true"], log="y", folder=tmp_path)
    with pytest.raises(steps.StepFailed, match="ended with 1"):
        steps.call(["false"], folder=tmp_path)
