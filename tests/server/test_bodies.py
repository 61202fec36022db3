"""Bodies made to hurt: every field has bounds, and what is beyond them is refused early, in words, for little memory."""

import json
from collections.abc import Callable, Iterable, Iterator
from typing import Any

import pytest

from huvren.core.palette.values import MOST_SWATCHES
from huvren.studio.models import Palette
from tests.core.test_lying_pictures import held_while
from tests.server.conftest import Api

MB = 1024 * 1024


BOUNDS = {"string": "maxLength", "array": "maxItems", "number": "maximum", "integer": "maximum", "object": "maxProperties"}


def unbounded(node: dict[str, Any], shapes: dict[str, Any], place: str, within: tuple[str, ...] = ()) -> Iterator[str]:
    """The places of a schema that may be as long, as many or as large as a sender likes."""
    if "$ref" in node:
        name = node["$ref"].rpartition("/")[2]
        if name not in within:
            yield from unbounded(shapes[name], shapes, f"{place} {name}", (*within, name))
        return
    for word in ("anyOf", "oneOf", "allOf"):
        for one in node.get(word, []):
            yield from unbounded(one, shapes, place, within)
    kind = node.get("type")
    is_fixed = "enum" in node or "const" in node or node.get("format") in ("uuid", "date-time", "binary")
    wanted = {"string": "maxLength", "array": "maxItems", "number": "maximum", "integer": "maximum", "object": "maxProperties"}.get(
        kind
    )
    if wanted and not is_fixed and wanted not in node and "exclusiveMaximum" not in node and "properties" not in node:
        yield f"{place} ({kind})"
    for name, one in node.get("properties", {}).items():
        yield from unbounded(one, shapes, f"{place}.{name}", within)
    for one in (node.get("items"), node.get("additionalProperties"), *node.get("prefixItems", [])):
        if isinstance(one, dict):
            yield from unbounded(one, shapes, f"{place}[]", within)


def test_every_field_of_every_body_says_its_bounds(api: Api) -> None:
    schema = api.get("/openapi.json")
    bodies = {
        f"{method} {path}": operation["requestBody"]["content"]["application/json"]["schema"]
        for path, methods in schema["paths"].items() for method, operation in methods.items()
        if "application/json" in operation.get("requestBody", {}).get("content", {})
    }  # fmt: skip
    assert len(bodies) > 35
    shapes = schema["components"]["schemas"]
    assert [place for name, body in bodies.items() for place in unbounded(body, shapes, name)] == []


def test_the_walk_finds_what_has_no_bounds() -> None:
    shapes = {"Inner": {"type": "object", "properties": {"a": {"type": "string"}, "b": {"type": "integer", "maximum": 3}}}}
    body = {"type": "array", "items": {"anyOf": [{"$ref": "#/x/Inner"}, {"type": "number"}, {"const": "x", "type": "string"}]}}
    assert list(unbounded(body, shapes, "it")) == ["it (array)", "it[] Inner.a (string)", "it[] (number)"]


SWATCH = '{"color":{"space":"srgb","coords":[0,0,0]}}'
LONG = "x" * 30_000_000


def document(name: str, swatches: Iterable[str] = ()) -> str:
    return f'{{"document":{{"name":"{name}","swatches":[{",".join(swatches)}]}}}}'


def step(kind: str, rest: str, base: str = "1") -> str:
    return f'{{"base":{base},"operation":{{"kind":"{kind}",{rest}}}}}'


def keys(value: str) -> str:
    return ",".join(f'"k{n}":{value}' for n in range(400_000))


OPERATIONS = "/operations"
EMPTY = '""'
BODIES: dict[str, tuple[str, Callable[[], str], str]] = {
    "a name of 30 MB": ("", lambda: f'{{"name":"{LONG}"}}', "at most 20"),
    "a name of 30 MB in a document": ("", lambda: document(LONG), "at most 20"),
    "a swatch's name of 30 MB": ("", lambda: document("a", [f'{SWATCH[:-1]},"name":"{LONG}"}}']), "at most 20"),
    "400,000 swatches": ("", lambda: document("a", [SWATCH] * 400_000), "more objects than"),
    "400,000 empty swatches": ("", lambda: document("a", ["{}"] * 400_000), "color"),
    "millions of empty lists": ("", lambda: document("a", ["[]"] * 5_000_000), "more objects than"),
    "millions of ids": (OPERATIONS, lambda: step("delete_swatches", f'"ids":[{",".join(["1"] * 5_000_000)}]'), "more objects than"),
    "half a million ids": (OPERATIONS, lambda: step("delete_swatches", f'"ids":[{",".join([EMPTY] * 500_000)}]'), "at most 100"),
    "half a million numbers for ids": (OPERATIONS, lambda: step("delete_swatches", f'"ids":[{",".join("1" * 500_000)}]'), "string"),
    "an id of 30 MB": (OPERATIONS, lambda: step("rename_swatch", f'"id":"{LONG}","name":"a"'), "at most 20"),
    "a number of 30 MB": (OPERATIONS, lambda: step("dissolve_group", '"id":"a"', "9" * 30_000_000), "number"),
    "keys without end": (OPERATIONS, lambda: step("set_limits", f'"limits":{{{keys("{}")}}}'), "at most 1"),
    "wrong keys without end": (OPERATIONS, lambda: step("set_limits", f'"limits":{{{keys("0")}}}'), "dictionary"),
    "unknown keys without end": ("", lambda: f'{{"document":{{"swatches":[],{keys("0")}}}}}', "at most 1"),
    "unknown keys of a swatch": ("", lambda: document("a", [f"{SWATCH[:-1]},{keys('0')}}}"]), "unknown"),
    "unknown keys of a recipe": ("", lambda: f'{{"picture":null,"recipe":{{{keys("0")}}}}}', "unknown"),
    "unknown keys that hold objects": ("", lambda: document("a", [f"{SWATCH[:-1]},{keys('{}')}}}"]), "unknown"),
}  # fmt: skip


@pytest.mark.parametrize("name", BODIES)
def test_a_body_made_to_hurt_is_refused_and_nothing_is_changed(api: Api, name: str) -> None:
    palette = api.post("/palettes", {"text": "#102030 #ffcc66"}, 201)
    path, body, said = BODIES[name]
    address = f"/api/palettes/{palette['id']}{path}" if path else "/api/palettes"
    data = body().encode()
    answers = []
    held = held_while(lambda: answers.append(api.client.post(address, data, content_type="application/json")))
    (answer,) = answers
    assert 400 <= answer.status_code < 500
    problem = json.loads(answer.content)
    assert said in problem["message"]
    assert len(answer.content) < 2_000, "what was sent is not sent back"
    assert held < len(data) + 100 * MB
    assert Palette.objects.count() == 1
    assert api.get(f"/palettes/{palette['id']}")["revision"] == palette["revision"]


def test_what_is_just_within_is_taken(api: Api) -> None:
    swatches = [{"color": {"space": "srgb", "coords": [n % 256 / 255, n // 256 % 256 / 255, 0.5]}} for n in range(MOST_SWATCHES)]
    palette = api.post("/palettes", {"document": {"name": "a" * 200, "swatches": swatches}}, 201)
    assert (len(palette["swatches"]), palette["name"]) == (MOST_SWATCHES, "a" * 200)


@pytest.mark.parametrize("query", ["text=" + "a" * 20_001, "x" * 50 + "=" + "a" * 20_001])
def test_queries_are_bounded_too(api: Api, query: str) -> None:
    assert "at most" in api.get(f"/colors/parse?{query}", 422)["message"]
