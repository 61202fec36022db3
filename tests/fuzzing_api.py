"""Requests made from the API's own schema, sound and broken, with real ids among them: `./run fuzz --api`, seeded and bounded.

No answer may be a 5xx, every answer must be one that the schema names, and JSON must be what it says it is. What fails is printed as
a request to send again.
"""

import argparse
import json
import logging
import random
import sys
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import django

AWKWARD: tuple[Any, ...] = (
    None, True, -1, 0, 2**31, 2**63 - 1, 10**400, 1e308, -0.5, "", "abc", "a\0b", "\ud800", "x" * 3000,
    "rgb(" + " " * 3000 + "x", [], [[]],
    {}, {"a": {}}, ["\0"], "00000000-0000-0000-0000-000000000000", "<script>", "../../etc", "%00", "NaN",
)  # fmt: skip
"""Put in the place of any part of a sound request."""

BETWEEN_FIELDS = ("must be either a swatch or a color", "A ramp needs two colors", "The easing “", "Give either text, or")
"""Rules about several fields together, which a schema cannot say and the answer does."""


LEAST_EXAMPLES = 2


@dataclass
class Found:
    calls: int = 0
    statuses: Counter[int] = field(default_factory=Counter)
    slowest: tuple[float, str] = (0.0, "")
    failures: dict[str, str] = field(default_factory=dict)
    operations: int = 0
    """Of the schema."""
    asked: Counter[str] = field(default_factory=Counter)
    """Examples of each operation."""


def _places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The way to every part of a document."""
    yield path
    entries = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in entries:
        yield from _places(part, (*path, key))


def _with(value: Any, path: tuple[Any, ...], put: Any) -> Any:
    if not path:
        return put
    copy = dict(value) if isinstance(value, dict) else list(value)
    copy[path[0]] = _with(copy[path[0]], path[1:], put)
    return copy


def spoiled(body: Any, chance: random.Random) -> Any:
    """A sound body with one part replaced by something awkward."""
    return _with(body, chance.choice(list(_places(body))), chance.choice(AWKWARD))


def as_bytes(body: Any) -> bytes:
    """JSON, halves of surrogate pairs and all."""
    return json.dumps(body).encode()


class Fuzzer:
    """One artist with things on the shelf, whose ids stand in half of the addresses."""

    def __init__(self, seed: int) -> None:
        from django.contrib.auth import get_user_model
        from django.test import Client

        from huvren.studio.api import api
        from tests.server.conftest import Api

        self.chance = random.Random(seed)
        self.schema = json.loads(json.dumps(api.get_openapi_schema(), default=str))
        get_user_model().objects.filter(username="fuzz").delete()
        self.artist = Api("fuzz")
        self.artist.client = Client(raise_request_exception=False)
        self.artist.client.force_login(self.artist.user)
        self.found = Found()
        self.share_ends = 0.0

    def renew(self) -> None:
        """Fresh things to work with."""
        palette = self.artist.bench()
        palette = self.artist.operate(palette, kind="add_variant", name="Night", first_name="Day")
        stops = [{"text": "#000000"}, {"text": "#ffffff"}]
        palette = self.artist.operate(palette, kind="keep_ramp", ramp={"stops": stops}, name="Glow")
        link = palette["links"][0]
        self.palette = palette
        self.ids = {
            "palette_id": palette["id"], "picture_id": link["picture"]["id"], "picture": link["picture"]["id"],
            "map_id": link["maps"][0],
            "format_id": "gpl", "check_id": "text", "lens_id": "deutan", "object_id": palette["id"],
            "ramp_id": palette["ramps"][0]["id"], "id": palette["swatches"][0]["id"],
        }  # fmt: skip

    def _real(self, value: Any, name: str = "") -> Any:
        """A generated body whose ids are often those of things that are there."""
        if isinstance(value, dict):
            return {key: self._real(part, key) for key, part in value.items()}
        if isinstance(value, list):
            return [self._real(part, "id" if name == "ids" else name) for part in value]
        if name == "base":
            return self.palette["revision"]
        return self.ids[name] if name in self.ids and self.chance.random() < 0.7 else value

    def send(
        self, method: str, template: str, path: str, query: str, body: bytes | None, kind: str, *, is_sound: bool = False
    ) -> None:
        begun = time.perf_counter()
        address = path + (f"?{query}" if query else "")
        response = self.artist.client.generic(method.upper(), address, body or b"", content_type=kind)
        seconds = time.perf_counter() - begun
        self.found.calls += 1
        self.found.statuses[response.status_code] += 1
        if seconds > self.found.slowest[0]:
            self.found.slowest = (seconds, f"{method} {template} {(body or b'')[:300]!r}")
        said = self.schema["paths"][template][method]["responses"]
        named = str(response.status_code) in said or (400 <= response.status_code < 500 and "4XX" in said)
        wrong = ""
        if response.status_code >= 500 and response.status_code != 503:
            wrong = "a 5xx"
        elif not named:
            wrong = f"{response.status_code}, which the schema does not name"
        elif response.status_code >= 400 and "problem+json" not in response.headers.get("Content-Type", ""):
            wrong = "a refusal that is no problem document"
        elif "json" in response.headers.get("Content-Type", "") and response.status_code != 204:
            try:
                json.loads(b"".join(response) if response.streaming else response.content)
            except ValueError:
                wrong = "JSON that is none"
        if is_sound and response.status_code == 422 and json.loads(response.content)["code"] == "bad_request":
            said_why = json.loads(response.content)["message"]
            if not any(rule in said_why for rule in BETWEEN_FIELDS):
                wrong = f"sound by the schema, and refused: {said_why[:90]}"
        if wrong:
            key = f"{method} {template}: {wrong}"
            self.found.failures.setdefault(key, f"{method.upper()} {address[:300]} {(body or b'')[:700]!r}")

    def run(self, seconds: float, examples: int) -> Found:
        """Every operation in turn, again and again until the time is over."""
        import schemathesis
        from hypothesis import strategies
        from schemathesis.generation import GenerationMode

        operations = [result.ok() for result in schemathesis.openapi.from_dict(self.schema).get_all_operations()]
        colors = ["#a1b2c3", "tomato", "oklch(0.7 0.1 200)", "rgb(1 2 3 / 50%)", "K40", "ff0"]
        schemathesis.openapi.format("color", strategies.sampled_from(colors))
        schemathesis.openapi.format("channel-depth", strategies.sampled_from(["5-6-5", "3-3-2", "4x4x4"]))
        due = time.monotonic() + seconds
        rounds = 0
        self.found.operations = len(operations)
        while time.monotonic() < due:
            rounds += 1
            for place, operation in enumerate(operations):
                # Each has its share of the time, so that all of them are asked before any is asked again.
                now = time.monotonic()
                self.share_ends = now + (due - now) / (len(operations) - place)
                if now > due:
                    break
                self.renew()
                for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
                    self._try(
                        operation, operation.as_strategy(generation_mode=mode), examples, rounds, mode is GenerationMode.POSITIVE
                    )
        return self.found

    def _try(self, operation: Any, cases: Any, examples: int, number: int, is_sound: bool) -> None:
        from hypothesis import HealthCheck, Phase, given, seed, settings

        checks = list(HealthCheck)

        @seed(number)
        @settings(max_examples=examples, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=checks)
        @given(case=cases)
        def try_one(case: Any) -> None:
            if time.monotonic() > self.share_ends and self.found.asked[operation.label] >= LEAST_EXAMPLES:
                return
            self.found.asked[operation.label] += 1
            self._send_case(case, operation.path, operation.method, is_sound)

        try:
            try_one()
        except Exception as error:
            if "Unsatisfiable" not in type(error).__name__:
                print(f"  {operation.label}: not generated, {type(error).__name__}", file=sys.stderr)

    def _send_case(self, case: Any, template: str, method: str, is_sound: bool) -> None:
        from urllib.parse import quote, urlencode

        path = template
        for name, value in (case.path_parameters or {}).items():
            real = self.ids[name] if name in self.ids and self.chance.random() < 0.8 else value
            path = path.replace("{" + name + "}", quote(str(real), safe=""))
        query = urlencode(
            {key: value if isinstance(value, str) else json.dumps(value) for key, value in dict(case.query or {}).items()},
            errors="replace",
        )
        body = case.body
        if case.media_type and "json" in case.media_type:
            try:
                sound = self._real(json.loads(json.dumps(body)))
            except (TypeError, ValueError):
                return
            self.send(method, template, path, query, as_bytes(sound), "application/json", is_sound=is_sound)
            self.send(method, template, path, query, as_bytes(spoiled(sound, self.chance)), "application/json")
        elif case.media_type:
            edge = "edge"
            data = self.chance.randbytes(self.chance.choice((0, 10, 400)))
            part = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a\u0000b.png"\r\n\r\n'.encode()
            sent = part + data + f"\r\n--{edge}--\r\n".encode()
            self.send(method, template, path, query, sent, f"multipart/form-data; boundary={edge}")
        else:
            self.send(method, template, path, query, None, "application/json", is_sound=is_sound)


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run fuzz --api", description=__doc__)
    parser.add_argument("--api", action="store_true")
    parser.add_argument("--seconds", type=float, default=300)
    parser.add_argument("--examples", type=int, default=12, help="of each operation in a round, sound and broken each")
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    django.setup()
    logging.disable(logging.ERROR)
    found = Fuzzer(options.seed).run(options.seconds, options.examples)
    print(f"{found.calls:,} requests; answers: {dict(sorted(found.statuses.items()))}")
    fewest = min(found.asked.values(), default=0)
    print(f"{len(found.asked)} of {found.operations} operations were asked, each with {fewest} examples or more")
    print(f"slowest {found.slowest[0]:.2f} s: {found.slowest[1][:300]}")
    for key, request in found.failures.items():
        print(f"FAILED {key}\n    {request}")
    print("No request was answered wrongly." if not found.failures else f"{len(found.failures)} kinds of wrong answers.")
    if len(found.asked) < found.operations:
        print("Not all of the schema was asked: give it more time with --seconds.")
        return 1
    return 1 if found.failures else 0


if __name__ == "__main__":
    sys.exit(main())
