"""Values that go along with stored work: documents of any palette, links of several frames, orders, schemes, planes."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.convert import to_srgb
from huvren.core.color.harmony import SCHEMES, companions
from huvren.core.color.mixing import MODELS, mix
from huvren.core.color.notation import NOTATIONS, format_css, parse_color
from huvren.core.color.planes import PLANES, draw_plane
from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown
from huvren.core.formats import FORMATS, Document, Found, writers_of
from huvren.core.formats.readings import read_palettes
from huvren.core.palette.derivations import ColorSource
from huvren.core.palette.derivations.mixture import Mixture, Paint
from huvren.core.palette.document import palette_from_document, palette_to_document, understand_palette
from huvren.core.palette.values import Group, Palette, Swatch, Variant
from huvren.core.ramp.plan import plan_of
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.stops import Stop
from huvren.core.ramp.values import Ramp
from huvren.core.ramp.ways import Lane
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.orders import ORDERS, Facts
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.registry import Registry
from tests.pictures import painted

NAMES = st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc", "Zl", "Zp", "Zs", "Cn", "Co", "Cf"]), max_size=20)


@st.composite
def colors(draw: st.DrawFn) -> Color:
    space = draw(st.sampled_from(SPACES.ids()))
    coords = [draw(st.none() | st.floats(-10, 400, allow_nan=False)) for _ in SPACES[space].channels]
    return Color.of(space, coords, draw(st.none() | st.floats(0, 1)))


@st.composite
def palettes(draw: st.DrawFn) -> Palette:
    groups = tuple(Group(draw(NAMES) or "G", f"g{n}", draw(st.none() | st.integers(1, 40))) for n in range(draw(st.integers(0, 2))))
    swatches = tuple(
        Swatch(
            draw(colors()), draw(NAMES), f"s{n}", draw(st.booleans()), draw(st.sampled_from([None, *(g.id for g in groups)])),
            draw(NAMES), tuple(dict.fromkeys(filter(None, draw(st.lists(NAMES, max_size=2))))),
        )
        for n in range(draw(st.integers(0, 5)))
    )  # fmt: skip
    made = Palette(draw(NAMES) or "P", swatches, groups, draw(st.none() | st.integers(1, 99)))
    if draw(st.booleans()):
        variants = tuple(Variant(f"V{n}", f"v{n}", tuple((s.id, draw(colors())) for s in swatches[:2])) for n in range(2))
        made = replace(made, variants=variants, variant="v1")
    if draw(st.booleans()):
        made = replace(made, slots=len(swatches) + 2).with_swatches(swatches)
    return made


@settings(max_examples=150, deadline=None)
@given(palettes())
def test_a_document_holds_everything_of_any_palette(palette: Palette) -> None:
    document = json.loads(json.dumps(palette_to_document(palette)))
    assert palette_from_document(document) == palette
    understood = understand_palette(document)
    assert (understood.value, understood.problems) == (palette, ())
    data = FORMATS["json"].written(Document(palette))
    if palette.swatches:
        (reading,) = read_palettes(data, "x.json")
        assert replace(reading.found.palette, name=palette.name) == palette


@pytest.mark.parametrize("space", [space.id for space in SPACES if space.function])
@pytest.mark.parametrize("place", range(3))
def test_a_missing_component_comes_back_from_its_notation(space: str, place: int) -> None:
    coords: list[float | None] = [0.5, 0.1, 40.0] if space.startswith("ok") else [50.0, 20.0, 40.0]
    coords[place] = None
    color = Color.of(space, coords)
    text = format_css(color, space)
    assert text.count("none") == 1
    assert parse_color(text).missing == (place,)
    assert parse_color(text).coords == pytest.approx(color.coords, abs=0.02)
    for notation in NOTATIONS.ids():
        assert ("none" in format_css(color, notation)) == (notation == space), notation


def test_an_alpha_that_is_missing_is_written_and_read() -> None:
    color = parse_color("oklch(0.5 0.1 40 / none)")
    assert (color.alpha, color.missing) == (0.0, (-1,))
    assert format_css(color, "oklch") == "oklch(0.5 0.1 40 / none)"
    assert color.hex == "#924d3500", "by coloraide"


FACTS = st.builds(
    Facts, st.floats(0, 1), st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.integers(0, 9999), st.floats(0, 1e6), st.integers(0, 99)
)


@given(st.lists(FACTS, min_size=2, max_size=12))
def test_orders_measure_what_they_say(facts: list[Facts]) -> None:
    by = {order.id: [entry for _, entry in sorted(enumerate(facts), key=lambda row: (order.key(row[1]), row[0]))] for order in ORDERS}
    assert [f.lightness for f in by["lightness"]] == sorted(f.lightness for f in facts)
    assert [f.count for f in by["use"]] == sorted((f.count for f in facts), reverse=True)
    assert [f.appears for f in by["appearance"]] == sorted(f.appears for f in facts)
    assert [f.before for f in by["same"]] == sorted(f.before for f in facts)
    neutral = [np.hypot(f.a, f.b) < 0.02 for f in by["hue"]]
    assert neutral == sorted(neutral, reverse=True), "neutrals come first"
    hues = [np.degrees(np.arctan2(f.b, f.a)) % 360 // 30 for f, gray in zip(by["hue"], neutral, strict=True) if not gray]
    assert hues == sorted(hues)


@pytest.mark.parametrize("order", ORDERS.ids())
def test_an_order_arranges_the_strip_of_a_reduction(order: str) -> None:
    picture = painted(40, 50)
    recipe = ReduceRecipe(colors=8, order=order)
    reduction = reduce_picture(picture, recipe)
    adopted = adopt(Palette("P"), reduction, recipe, "seed")
    place = {swatch_id: index for index, swatch_id in enumerate(adopted.table)}
    counts = [int(reduction.figures.counts[place[s.id]]) for s in adopted.palette.swatches]
    first = [int(np.flatnonzero(reduction.indices.ravel() == place[s.id])[0]) for s in adopted.palette.swatches]
    lightness = [s.color.oklab[0] for s in adopted.palette.swatches]
    if order == "use":
        assert counts == sorted(counts, reverse=True)
    elif order == "appearance":
        assert first == sorted(first)
    elif order in ("lightness", "same"):
        assert lightness == sorted(lightness)


@pytest.mark.parametrize("scheme", SCHEMES.ids())
def test_a_scheme_turns_by_what_it_says(scheme: str) -> None:
    entry = SCHEMES[scheme]
    count = entry.usual or entry.counts[0]
    offsets = entry.offsets(None, count)
    assert len(offsets) == count
    assert offsets[0] == 0
    base = Color("oklch", (0.62, 0.05, 40.0))
    made = companions(base, scheme)
    assert len(made) == count
    if entry.by_lightness:
        assert [c.coords[0] for c in made] == sorted(c.coords[0] for c in made)
    else:
        turned = [(c.to("oklch")[2] - 40) % 360 for c in made]
        assert turned == pytest.approx([offset % 360 for offset in offsets], abs=1e-6)
        assert {round(c.to("oklch")[0], 9) for c in made} == {0.62}
    with pytest.raises(BadInput, match="colors; 99 were asked for"):
        companions(base, scheme, count=99)


@pytest.mark.parametrize("plane", PLANES.ids())
def test_a_plane_shows_the_color_of_each_place(plane: str) -> None:
    entry = PLANES[plane]
    held = 0.6 if entry.held in (0, 1) and SPACES[entry.space].channels[entry.held].high <= 1 else 40.0
    drawn = draw_plane(plane, held, 21, 17)
    assert drawn.shape == (17, 21, 4)
    if entry.is_round:
        assert drawn[0, 0, 3] == 0, "clear beyond the disc"
        return
    for row, column in ((3, 4), (8, 10), (13, 2), (16, 20)):
        coords = np.zeros(3)
        coords[entry.held] = held
        coords[entry.across[0]] = entry.across[1] + (entry.across[2] - entry.across[1]) * column / 20
        coords[entry.up[0]] = entry.up[1] + (entry.up[2] - entry.up[1]) * (1 - row / 16)
        srgb = to_srgb(coords, entry.space)
        inside = bool(((srgb >= -1e-6) & (srgb <= 1 + 1e-6)).all())
        assert (drawn[row, column, 3] == 255) == inside
        if inside:
            assert drawn[row, column, :3] == pytest.approx(np.rint(np.clip(srgb, 0, 1) * 255), abs=1)


@pytest.mark.parametrize("model", MODELS.ids())
def test_mixing_by_parts_does_not_depend_on_order_nor_on_scale(model: str) -> None:
    colors = [parse_color(code) for code in ("#c0392b", "#f1c40f80", "#2980b9")]
    parts = [2.0, 1.0, 5.0]
    mixed = mix(colors, parts, model)
    again = mix(colors[::-1], [10 * part for part in parts[::-1]], model)
    assert mixed.srgb == pytest.approx(again.srgb, abs=1e-6)
    assert mixed.alpha == pytest.approx((2 + 128 / 255 + 5) / 8)
    assert mix(colors, [0, 3, 0], model) == colors[1]
    assert mix([colors[0], colors[0]], [1, 4], model).srgb == pytest.approx(colors[0].srgb, abs=1e-4)


def test_a_mixture_is_named_and_one_step_of_its_ladder_can_be_taken() -> None:
    palette = Palette("P", (Swatch(parse_color("#fcd200"), "Yolk", "y"), Swatch(parse_color("#0a3fb0"), "Dusk", "d")))
    paints = [Paint(color=ColorSource(swatch="y"), parts=3), Paint(color=ColorSource(swatch="d"))]
    whole = Mixture(paints=paints)
    assert whole.sentence(palette) == "Mix Yolk and Dusk 3 : 1 as paint"
    assert [color.hex for color, _ in whole.colors(palette)] == [mix([s.color for s in palette.swatches], [3, 1], "pigment").hex]
    ladder = Mixture(paints=paints, steps=4, model="light")
    assert ladder.sentence(palette) == "Add the ladder from Yolk to Dusk, as light"
    steps = ladder.colors(palette)
    assert len(steps) == 4
    assert ladder.model_copy(update={"only": 2}).colors(palette) == [steps[2]]
    with pytest.raises(BadInput, match="The ladder has 4 steps; there is no step 10"):
        ladder.model_copy(update={"only": 9}).colors(palette)
    with pytest.raises(BadInput, match="Mixing needs two colors or more"):
        Mixture(paints=paints[:1]).colors(palette)
    with pytest.raises(BadInput, match="goes between two colors; 3 were given"):
        Mixture(paints=[*paints, Paint(color=ColorSource(text="red"))], steps=3).colors(palette)
    with pytest.raises(ValueError, match="no mixing model"):
        Mixture(paints=paints, model="smoke")


def test_a_registry_checks_what_it_takes() -> None:
    registry: Registry[SPACES.__class__] = Registry("thing")  # type: ignore[type-var]
    entry = SPACES["oklab"]
    registry.register(entry)  # type: ignore[arg-type]
    with pytest.raises(TypeError, match="registered twice"):
        registry.register(entry)  # type: ignore[arg-type]
    with pytest.raises(TypeError, match="without an id"):
        registry.register(replace(entry, id=""))  # type: ignore[arg-type]
    with pytest.raises(Unknown, match=r"There is no thing “x”\. Choose one of: oklab"):
        registry["x"]
    assert (registry.get("x"), registry.get("oklab"), registry.ids(), len(registry)) == (None, entry, ("oklab",), 1)


def test_formats_say_what_they_contain_and_text_can_be_read() -> None:
    assert [entry.id for entry in writers_of("picture")] == ["indexed-png"]
    assert writers_of("palette")[0].id == "gpl"
    palette = Palette("P", (Swatch(parse_color("#123456"), "Ink"), Swatch(parse_color("#fedcba"), "Light")))
    for entry in FORMATS:
        assert entry.contents <= {"palette", "ramps", "picture", "frames", "theme"}
        if entry.write is None:
            with pytest.raises(BadInput, match="can be read but not written"):
                entry.written(Document(palette))
            continue
        frames = (np.array([[0, 1]], np.uint8),) if entry.needs_picture else ()
        ramps = (("Ramp", plan_of([swatch.color for swatch in palette.swatches])),) if "palette" not in entry.contents else ()
        data = entry.written(Document(palette, frames, ramps=ramps))
        if ramps:
            with pytest.raises(BadInput, match=r"holds a ramp\. Choose one first"):
                entry.written(Document(palette, frames))
        assert entry.is_text == (b"\x00" not in data and not data.startswith(b"\x89PNG")), entry.id
    assert Found(palette).frames == ()


def test_a_ramp_is_one_value() -> None:
    first, second = (Stop(parse_color(code)) for code in ("#0b58c4", "#ffa22e"))
    ramp = Ramp((first, second), Lane.of("oklch", "longer"))
    assert ramp == Ramp((first, second), Lane.of("oklch", "longer"))
    assert ramp.through(Lane.of("oklab")).stops == ramp.stops
    assert [spacing.id for spacing in SPACINGS] == ["position", "even", "lightness"]
    srgb, alpha, inside = ramp.shown([0, 0.5, 1])
    assert srgb[0] == pytest.approx(first.color.srgb, abs=1e-9)
    assert srgb[2] == pytest.approx(second.color.srgb, abs=1e-9)
    assert (alpha.tolist(), inside.shape) == ([1, 1, 1], (3,))
    coords, _ = ramp.at([0.5])
    hue = coords[0, 2]
    ends = [stop.color.to("oklch")[2] for stop in ramp.stops]
    near = (ends[0] + ((ends[1] - ends[0] + 180) % 360 - 180) / 2) % 360
    assert abs((hue - near + 180) % 360 - 180) == pytest.approx(180, abs=1e-6), "the far way round"
