"""What processes and computers share, with several of them on the tests' database: each `Shared` is a process of its own to it."""

import threading
from collections.abc import Iterator
from typing import Any

import pytest
from django.conf import settings
from django.db import connection

from huvren.studio.errors import Busy
from huvren.studio.services.load.gate import UNIT_BYTES, Gate
from huvren.studio.services.load.lane import MUCH_S, Lane, NoTurn
from huvren.studio.services.load.shared import Shared
from tests.waiting import PATIENCE_S, until
from tools.postgres import free_port

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def two() -> Iterator[tuple[Shared, Shared]]:
    both = Shared(), Shared()
    yield both
    for one in both:
        one.close()


def granted() -> int:
    """Advisory locks of this database."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND granted AND database = "
                       "(SELECT oid FROM pg_database WHERE datname = current_database())")  # fmt: skip
        return int(cursor.fetchone()[0])


def test_a_place_is_held_by_one_at_a_time_and_not_twice_by_the_same(two: tuple[Shared, Shared]) -> None:
    one, other = two
    first, second = one.take("seat", 2), one.take("seat", 2)
    assert first
    assert second
    assert first != second
    assert one.take("seat", 2) is None
    assert other.take("seat", 2) is None
    assert other.take("stool", 2), "another name, other places"
    one.give_back(first)
    assert other.take("seat", 2)
    one.give_back(first)
    assert other.take("seat", 2) is None, "what was given back once is nobody else's to give"


def test_who_ends_holds_nothing_and_who_lost_its_connection_goes_on(two: tuple[Shared, Shared]) -> None:
    one, other = two
    assert one.take("seat")
    one.close()
    place = other.take("seat")
    assert place
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'huvren shared'"
            " AND datname = current_database()"
        )
    until(lambda: granted() == 0)
    # It hears of it with the next question: that one is let pass, and everything is new from there on.
    assert other.take("stool")
    other.give_back(place)
    again = other.take("seat")
    assert again
    other.give_back(place)
    assert one.take("seat") is None, "of an earlier connection nothing is left to give back"
    other.give_back(again)
    assert one.take("seat")


def test_a_database_that_is_away_keeps_nobody_waiting(monkeypatch: pytest.MonkeyPatch) -> None:
    away = Shared()
    monkeypatch.setitem(settings.DATABASES["default"], "PORT", str(free_port()))
    place = away.take("seat")
    assert place
    assert place.connection is None
    away.give_back(place)
    assert away.come(1) == 0
    assert away.others(2) == 0
    away.go(1, 5)


def test_what_somebody_used_is_known_everywhere_and_fades(two: tuple[Shared, Shared]) -> None:
    one, other = two
    for _ in range(2):
        assert one.come(7) < 6.1
        one.go(7, 6)
    assert 11.5 < other.come(7) <= 12
    assert other.come(8) == 0
    with connection.cursor() as cursor:
        cursor.execute("UPDATE studio_worked SET at = at - interval '40 seconds'")
    assert 2.8 < other.come(7) <= 3, "two half-lives"


def test_who_is_here_is_known_in_all_processes_and_counted_once(two: tuple[Shared, Shared]) -> None:
    one, other = two
    for shared in two:
        shared.come(7)
        shared.come(8)
    one.come(8)
    assert [shared.others(artist) for shared in two for artist in (7, 8, 9)] == [1, 1, 2, 1, 1, 2]
    one.go(8)
    other.go(8)
    assert other.others(7) == 1, "once more than once"
    one.go(8)
    assert other.others(7) == 0
    other.come(9)
    other.close()
    until(lambda: one.others(7) == 0, "who ends is not here")


def test_what_one_goes_with_is_free_for_others(two: tuple[Shared, Shared]) -> None:
    one, other = two
    one.come(7)
    places = [place for place in (one.take("seat"), one.take("stool")) if place]
    one.go(7, 2, places)
    assert len(places) == 2
    assert granted() == 0
    assert other.take("seat")
    one.go(7, 0, places)
    assert other.take("seat") is None
    assert granted() == 1, "what was given back is not given back again"


def inside(lane: Lane, who: int, leaves: threading.Event, names: list[str], name: str) -> threading.Thread:
    """A thread that is inside from when it may until it is told to leave."""

    def work() -> None:
        with lane.turn_of(who):
            names.append(name)
            leaves.wait(PATIENCE_S)

    thread = threading.Thread(target=work)
    thread.start()
    return thread


def test_one_lane_for_all_processes_of_a_computer(two: tuple[Shared, Shared]) -> None:
    lanes = [Lane(at_once=1, shared=shared) for shared in two]
    leaves, names = threading.Event(), list[str]()
    threads = [inside(lanes[0], 1, leaves, names, "first")]
    until(lambda: names)
    threads.append(inside(lanes[1], 2, leaves, names, "second"))
    until(lanes[1].is_wanted)
    impatient = Lane(at_once=1, wait_s=0.1, shared=two[1])
    with pytest.raises(NoTurn), impatient.turn_of(3):
        pass
    assert names == ["first"]
    leaves.set()
    for thread in threads:
        thread.join()
    assert names == ["first", "second"]
    assert granted() == 0
    assert two[0].come(2) > 0


def test_who_used_much_is_inside_once_wherever_they_ask(two: tuple[Shared, Shared]) -> None:
    lanes = [Lane(at_once=3, aside_s=0, shared=shared) for shared in two]
    two[0].go(1, MUCH_S * 3)
    leaves, names = threading.Event(), list[str]()
    threads = [inside(lanes[0], 1, leaves, names, "much")]
    until(lambda: names)
    threads.append(inside(lanes[1], 1, leaves, names, "more"))
    until(lanes[1].is_wanted)
    threads += [inside(lane, 2, leaves, names, "modest") for lane in (lanes[0], lanes[0])]
    until(lambda: names.count("modest") == 2)
    assert "more" not in names
    leaves.set()
    for thread in threads:
        thread.join()
    assert "more" in names
    assert granted() == 0


def test_one_long_request_after_the_other_leaves_every_place_to_those_who_used_little(two: tuple[Shared, Shared]) -> None:
    lanes = [Lane(at_once=2, aside_s=0, shared=shared) for shared in two]
    for artist in (1, 2, 3):
        two[0].go(artist, MUCH_S * 3)
    leaves, names = threading.Event(), list[str]()
    threads = [inside(lanes[0], 1, leaves, names, "much")]
    until(lambda: names)
    threads.append(inside(lanes[1], 2, leaves, names, "a second who used much"))
    until(lambda: len(names) == 2)
    assert granted() == 2 * 3, "each is here, has what is theirs, and a place"
    threads.append(inside(lanes[1], 3, leaves, names, "a third who used much"))
    until(lambda: lanes[1].waiting)
    threads.append(inside(lanes[0], 7, leaves, names, "modest"))
    until(lambda: "modest" in names)
    assert "a third who used much" not in names
    leaves.set()
    for thread in threads:
        thread.join()
    assert granted() == 0


@pytest.mark.parametrize("where", [(0, 0), (0, 1), (1, 1)])
def test_beside_one_who_used_much_all_places_are_free(two: tuple[Shared, Shared], where: tuple[int, int]) -> None:
    lanes = [Lane(at_once=2, aside_s=0, shared=shared) for shared in two]
    two[0].go(1, MUCH_S * 3)
    leaves, names = threading.Event(), list[str]()
    threads = [inside(lanes[0], 1, leaves, names, "much")]
    until(lambda: names)
    threads += [inside(lanes[place], 10 + number, leaves, names, "modest") for number, place in enumerate(where)]
    until(lambda: names.count("modest") == 2)
    threads.append(inside(lanes[1], 20, leaves, names, "a third"))
    until(lambda: lanes[1].waiting)
    assert "a third" not in names
    leaves.set()
    for thread in threads:
        thread.join()
    assert granted() == 0


def test_who_used_much_stands_aside_for_those_of_other_processes_and_for_nobody_else(two: tuple[Shared, Shared]) -> None:
    now = [1000.0]

    def clock() -> float:
        now[0] += 0.05
        return now[0]

    lanes = [Lane(at_once=2, wait_s=10**9, aside_s=5, clock=clock, look_s=0.001, asks_s=0.001, shared=shared) for shared in two]

    def waited(who: int) -> float:
        begun = clock()
        with lanes[1].turn_of(who):
            return clock() - begun

    two[0].go(1, MUCH_S * 3)
    assert waited(1) < 5, "nobody else is there"
    with lanes[0].turn_of(2):
        assert waited(3) < 5, "who used little goes on"
        assert waited(1) >= 5
    assert waited(1) < 5
    assert granted() == 0


def test_memory_is_counted_for_all_processes_of_a_computer_together(two: tuple[Shared, Shared]) -> None:
    gates = [Gate(4 * UNIT_BYTES, wait_s=0.2, shared=shared) for shared in two]
    with gates[0].enter(3 * UNIT_BYTES):
        with gates[1].enter(UNIT_BYTES // 2):
            assert granted() == 4
        with pytest.raises(Busy), gates[1].enter(2 * UNIT_BYTES):
            pass
        assert granted() == 3, "what was collected in vain is given back, and the door is open"
    with gates[1].enter(9 * UNIT_BYTES):
        assert granted() == 4, "what needs more than there is goes alone"
        with pytest.raises(Busy), gates[0].enter(1):
            pass
    assert granted() == 0


def test_a_job_waits_for_memory_that_requests_have(two: tuple[Shared, Shared]) -> None:
    gates = [Gate(2 * UNIT_BYTES, wait_s=0, shared=shared) for shared in two]
    done = list[str]()

    def job() -> None:
        with gates[1].patiently(), gates[1].enter(2 * UNIT_BYTES):
            done.append("job")

    with gates[0].enter(UNIT_BYTES):
        thread = threading.Thread(target=job)
        thread.start()
        # Its door, and the piece that is left.
        until(lambda: granted() == 3, "it does not wait")
        with pytest.raises(Busy), gates[1].enter(2 * UNIT_BYTES):
            pass
        assert done == [], "it waits where a request has given up"
    thread.join()
    assert done == ["job"]


def test_what_needs_little_passes_whoever_waits_for_much(two: tuple[Shared, Shared]) -> None:
    """An archive is read for minutes; a large picture that waits for it keeps no small one out."""
    third = Shared()
    reading, large, small = (Gate(4 * UNIT_BYTES, wait_s=PATIENCE_S, shared=shared) for shared in (*two, third))
    order = list[str]()

    def decode() -> None:
        with large.enter(4 * UNIT_BYTES):
            order.append("large")

    with reading.enter(2 * UNIT_BYTES):
        thread = threading.Thread(target=decode)
        thread.start()
        # Its door, and all that is left.
        until(lambda: granted() == 5)
        with small.enter(UNIT_BYTES):
            order.append("small")
    thread.join()
    third.close()
    assert order == ["small", "large"]


def test_two_that_want_nearly_all_come_in_one_after_the_other(two: tuple[Shared, Shared]) -> None:
    gates = [Gate(4 * UNIT_BYTES, wait_s=PATIENCE_S, shared=shared) for shared in two]
    most, now, lock = [0], [0], threading.Lock()

    def work(gate: Gate) -> None:
        for _ in range(5):
            with gate.enter(3 * UNIT_BYTES):
                with lock:
                    now[0] += 1
                    most[0] = max(most[0], now[0])
                threading.Event().wait(0.005)
                with lock:
                    now[0] -= 1

    threads = [threading.Thread(target=work, args=(gates[number % 2],)) for number in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert most == [1]
    assert granted() == 0


def test_a_heavy_request_goes_by_what_is_shared(two: tuple[Shared, Shared], api: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    from huvren.studio.middleware import lanes
    from huvren.studio.services.load.lane import MACHINE

    lane = Lane(at_once=1, wait_s=0.1, shared=two[0])
    monkeypatch.setattr(lanes, "LANE", lane)
    elsewhere = two[1].take(f"lane {MACHINE}")
    assert elsewhere
    body = {"text": "#102030 " * 20_000}
    assert api.post("/palettes", body, 503)["code"] == "busy"
    two[1].give_back(elsewhere)
    assert api.post("/palettes", body, 201)["swatches"]
