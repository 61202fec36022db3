"""The ramp stage in Chromium: stops by pointer and keys, keeping and coming back, mending, reading from a picture, baking again."""

import re

import numpy as np
from playwright.sync_api import Locator, Page, expect

from huvren.core.color.notation import parse_color
from huvren.core.formats.gradients.ggr import FIRST_LINE
from huvren.core.ramp.plan import plain_only, plan_of
from tests.browser.test_arranging import hexes
from tests.browser.test_care import scan
from tests.pictures import png

DUSK, LAMP = "#0b58c4", "#ffa22e"


def begin(page: Page, *codes: str) -> None:
    """A new palette of typed colors, at the ramp stage."""
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill(" ".join(codes))
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(len(codes))
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    expect(page.get_by_role("slider", name=re.compile("^Position of ")).first).to_be_visible()


def stops(page: Page) -> Locator:
    return page.get_by_role("slider", name=re.compile("^Position of "))


def center(page: Page, what: Locator) -> tuple[float, float]:
    box = what.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_stops_are_dragged_added_and_taken_out(page: Page) -> None:
    begin(page, DUSK, LAMP)
    expect(stops(page)).to_have_count(2)
    left, right = (center(page, stops(page).nth(place)) for place in (0, 1))
    page.mouse.click((left[0] * 3 + right[0]) / 4, left[1])
    expect(stops(page)).to_have_count(3)
    expect(stops(page).nth(1)).to_have_attribute("aria-valuenow", "25")
    middle = center(page, stops(page).nth(1))
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move((left[0] + right[0]) / 2, middle[1], steps=8)
    page.mouse.up()
    expect(stops(page).nth(1)).to_have_attribute("aria-valuenow", "50")
    stops(page).nth(1).focus()
    page.keyboard.press("ArrowLeft")
    expect(stops(page).nth(1)).to_have_attribute("aria-valuetext", "49.0 %")
    page.keyboard.press("Shift+ArrowRight")
    expect(stops(page).nth(1)).to_have_attribute("aria-valuetext", "49.1 %")
    scan(page)
    # Dragged well away from the bar it goes.
    middle = center(page, stops(page).nth(1))
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 20, middle[1] + 160, steps=6)
    page.mouse.up()
    expect(stops(page)).to_have_count(2)
    page.get_by_role("slider", name=re.compile("^Midpoint behind ")).focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("slider", name=re.compile("^Midpoint behind "))).to_have_attribute("aria-valuetext", "53.0 %")
    page.get_by_role("button", name="Spacing: by position").click()
    page.get_by_role("radio", name="evenly").check()
    page.keyboard.press("Escape")
    expect(stops(page).first).to_have_attribute("aria-disabled", "true")
    expect(page.get_by_text(re.compile(r"^evenness 1\.0")).first).to_be_visible()


def test_keeping_changing_coming_back_and_reloading(page: Page) -> None:
    begin(page, DUSK, LAMP)
    expect(page.get_by_text("not kept")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.get_by_role("button", name="Curve: straight").click()
    page.get_by_role("radio", name="rounded").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text(re.compile(", changed since$"))).to_be_visible()
    page.get_by_role("button", name="Back to the kept one").click()
    expect(page.get_by_role("button", name="Curve: straight")).to_be_visible()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.get_by_role("spinbutton", name="Number of steps").fill("7")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep as new").click()
    expect(page.get_by_role("list", name="Kept ramps").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("button", name="Name …").click()
    field = page.get_by_role("textbox", name="Name of the ramp")
    field.fill("Seven")
    field.press("Enter")
    expect(page.get_by_role("list", name="Kept ramps").get_by_role("button", name="Seven")).to_be_visible()
    page.reload()
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("list", name="Kept ramps").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("list", name="Kept ramps").get_by_role("button", name="Seven").click()
    expect(page.get_by_role("spinbutton", name="Number of steps")).to_have_value("7")
    page.get_by_role("button", name="Undo").first.click()
    page.get_by_role("button", name="Undo").first.click()
    expect(page.get_by_role("list", name="Kept ramps").get_by_role("listitem")).to_have_count(1)


def test_baked_swatches_follow_a_tied_color_again(page: Page) -> None:
    begin(page, DUSK, LAMP)
    page.get_by_role("spinbutton", name="Number of steps").fill("4")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.get_by_role("button", name="Bake 4 swatches").click()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    page.get_by_role("option").nth(0).click()
    field = page.get_by_label("Hex or any color notation")
    field.fill("#7a5500")
    field.press("Enter")
    # Following, as a rule: nothing has to be baked again.
    wanted = [c.hex for c in plan_of([parse_color("#7a5500"), parse_color(LAMP)]).ramp(plain_only).baked(4)]
    expect(page.get_by_role("option", name=re.compile(wanted[1]))).to_be_visible()
    assert hexes(page)[2:] == wanted
    expect(page.get_by_role("button", name="Bake again")).to_have_count(0)
    page.get_by_role("checkbox", name="following").uncheck()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    field.fill("#7a0000")
    field.press("Enter")
    expect(page.get_by_role("button", name="Bake again")).to_be_visible()
    assert hexes(page)[2:] == wanted
    page.get_by_role("button", name="Bake again").click()
    expect(page.get_by_text(re.compile("follow it again"))).to_be_visible()
    expect(page.get_by_role("button", name="Bake again")).to_have_count(0)
    wanted = [c.hex for c in plan_of([parse_color("#7a0000"), parse_color(LAMP)]).ramp(plain_only).baked(4)]
    assert hexes(page)[2:] == wanted


def test_a_diverging_ramp_is_made_bent_and_mended(page: Page) -> None:
    begin(page, "#2a5cc4", "#c46a1e")
    page.get_by_role("tab", name="For a purpose").click()
    page.get_by_role("button", name=re.compile("^Purpose: ")).click()
    page.get_by_role("radio", name="diverging ramp").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name=re.compile("^Color 2: "))).to_be_visible()
    page.get_by_role("button", name="Make it").click()
    promises = page.get_by_role("list", name="What the ramp keeps")
    expect(promises.get_by_text("equal lightness at equal distance")).to_be_visible()
    expect(promises.get_by_role("button")).to_have_count(0)
    scan(page)
    page.get_by_role("tab", name="Side by side").click()
    page.get_by_role("button", name=re.compile("^Stop 1: ")).click()
    page.get_by_label("Stop 1, typed").fill("#0a1440")
    page.get_by_role("button", name="Use", exact=True).click()
    page.keyboard.press("Escape")
    page.get_by_role("tab", name="For a purpose").click()
    expect(promises.get_by_text(re.compile("the halves differ by L"))).to_be_visible()
    promises.get_by_role("button", name="Balance the halves").first.click()
    expect(promises.get_by_text("equal lightness at equal distance")).to_be_visible()


def test_lanes_are_chosen_remembered_and_compared(page: Page) -> None:
    begin(page, DUSK, LAMP)
    lanes = page.get_by_role("radio", name=re.compile(": "))
    expect(lanes).to_have_count(5)
    page.get_by_role("button", name="Lanes: 5 lanes").click()
    page.get_by_role("checkbox", name="Paint").check()
    page.get_by_role("checkbox", name="Linear light").uncheck()
    page.keyboard.press("Escape")
    expect(page.get_by_role("radio", name=re.compile("^Paint: "))).to_have_count(1)
    expect(page.get_by_role("radio", name=re.compile("^Linear light: "))).to_have_count(0)
    page.reload()
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("radio", name=re.compile("^Paint: "))).to_have_count(1)
    page.get_by_role("button", name="Difference of two lanes").click()
    expect(page.get_by_text(re.compile(r"differ by up to ΔE \d+\.\d at"))).to_be_visible()
    page.get_by_role("tab", name="Closer").click()
    expect(page.get_by_role("img", name="The ramp as a linear gradient")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Shape: ")).click()
    page.get_by_role("radio", name="a conic gradient").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("img", name="The ramp dithered to the strip's colors")).to_be_visible()
    scan(page)


def test_a_ramp_is_read_from_a_picture_and_a_picture_is_toned(page: Page) -> None:
    row = plan_of([parse_color(DUSK), parse_color(LAMP)]).ramp(plain_only).shown(np.linspace(0, 1, 300))[0]
    picture = np.full((120, 300, 4), 255, np.uint8)
    picture[..., :3] = np.floor(row * 255 + 0.5)
    page.goto("/")
    page.get_by_label("Files to bring in").first.set_input_files({"name": "bar.png", "mimeType": "image/png", "buffer": png(picture)})
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("4")
    page.get_by_role("tab", name="From a picture").click()
    expect(page.get_by_text(re.compile("^fewest stops 2"))).to_be_visible()
    end = page.get_by_role("slider", name="End of the line")
    end.focus()
    page.keyboard.press("ArrowDown")
    expect(end).to_have_attribute("aria-valuetext", "95 %, 51 %")
    scan(page)
    page.get_by_role("button", name="Work on this ramp").click()
    page.get_by_role("tab", name="Tone a picture").click()
    page.get_by_role("button", name="In 16 steps").click()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_role("button", name="Keep in this palette")).to_be_enabled()
    page.get_by_role("button", name="Keep in this palette").click()
    expect(page.get_by_text(re.compile("16 swatches · saved"))).to_be_visible()
    page.get_by_role("tab", name="Side by side").click()
    expect(page.get_by_text("preview, not kept")).to_have_count(0)


def test_a_ramp_of_the_shelf_goes_into_another_palette(page: Page) -> None:
    begin(page, DUSK, LAMP)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    name = page.get_by_role("list", name="Kept ramps").get_by_role("button").first.inner_text()
    begin(page, "#00ff00", "#004400")
    page.get_by_role("button", name="Begin with another ramp").click()
    page.get_by_role("list", name="Ramps of the shelf").get_by_role("button", name=re.compile(re.escape(name))).click()
    expect(page.get_by_text("Its stops follow 2 swatches:")).to_be_visible()
    page.get_by_role("button", name="With its 2 swatches").click()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    assert hexes(page) == ["#00ff00", "#004400", DUSK, LAMP]
    page.get_by_role("button", name="Others …").click()
    page.get_by_role("list", name="Starting ramps").get_by_role("button", name=re.compile("Lamp glow")).click()
    expect(stops(page)).to_have_count(6)
    page.goto("/")
    ramps = page.get_by_role("region", name="Ramps").get_by_role("listitem")
    expect(ramps).to_have_count(2)
    page.get_by_label("Search by name").fill(f"near {LAMP}")
    expect(ramps.first.get_by_text("nearest ΔE")).to_be_visible()
    scan(page)
    ramps.first.get_by_role("button", name="Take …").click()
    page.get_by_role("list", name="Palettes to take it into").get_by_role("button").first.click()
    expect(page.get_by_text(re.compile("^Take “.*” into this palette$"))).to_be_visible()
    page.get_by_role("button", name="As plain colors").click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.goto("/")
    ramps.first.get_by_role("button").first.click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()


def test_filling_in_between_selected_swatches(page: Page) -> None:
    begin(page, "#000000", "#ffffff")
    page.get_by_role("option").nth(0).click()
    page.get_by_role("option").nth(1).click(modifiers=["Shift"])
    page.get_by_role("button", name="Fill in between").click()
    page.get_by_role("spinbutton", name="Colors between each two").fill("38")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Put in 38 swatches").click()
    expect(page.get_by_text("40 swatches · saved")).to_be_visible()
    assert (hexes(page)[0], hexes(page)[-1]) == ("#000000", "#ffffff")


def test_a_file_of_a_ramp_is_shown_before_it_comes_in(page: Page) -> None:
    data = f"{FIRST_LINE}\nName: Sea\n1\n0 0.5 1 0 0 0.5 1 0.9 1 1 1 0 0\n".encode()
    page.goto("/")
    page.get_by_label("Files to bring in").first.set_input_files({"name": "sea.ggr", "mimeType": "text/plain", "buffer": data})
    expect(page.get_by_role("list", name="Found ramps").get_by_role("button", name="Leave out the ramp Sea")).to_be_visible()
    for _ in range(2):
        page.get_by_role("list", name="Found swatches").get_by_role("button", name=re.compile("^Leave out")).first.click()
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    expect(page.get_by_role("list", name="Kept ramps").get_by_role("button", name="Sea")).to_be_visible()


def test_steps_are_even_by_the_measure_that_is_chosen_and_stay_so(page: Page) -> None:
    begin(page, "#0b0a14", "#ffe9a0")
    page.get_by_role("button", name="Spacing: by position").click()
    page.get_by_role("radio", name="evenly").check()
    page.keyboard.press("Escape")
    measure = page.get_by_role("button", name="Measure of difference: OKLab")
    measure.focus()
    for key in ("Enter", "ArrowDown", "Escape"):
        page.keyboard.press(key)
    expect(page.get_by_role("button", name="Measure of difference: CAM16-UCS")).to_be_visible()
    scan(page)
    page.get_by_role("spinbutton", name="Number of steps").fill("5")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.reload()
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("button", name="Measure of difference: CAM16-UCS")).to_be_visible()
    page.get_by_role("button", name="Bake 5 swatches").click()
    expect(page.get_by_text("7 swatches · saved")).to_be_visible()
    stops_of = [parse_color("#0b0a14"), parse_color("#ffe9a0")]
    by = {name: plan_of(stops_of, steps=5, spacing="even", measure=name) for name in ("oklab", "cam16-ucs")}
    wanted = {name: [color.hex for color in plan.ramp(plain_only).baked(5)] for name, plan in by.items()}
    assert hexes(page)[2:] == wanted["cam16-ucs"] != wanted["oklab"]


def test_what_is_lost_to_other_eyes_is_calmed(page: Page) -> None:
    begin(page, "#a43c20", "#2243fc", "#abbc67")
    page.get_by_role("tab", name="For a purpose").click()
    promises = page.get_by_role("list", name="What the ramp keeps")
    expect(promises.get_by_text(re.compile("^the order is lost to"))).to_be_visible()
    promises.get_by_role("button", name="Calm the colors").click()
    expect(promises.get_by_text("in order to protan, deutan and tritan eyes")).to_be_visible()
    expect(promises.get_by_role("button", name="Calm the colors")).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Purpose: ")).click()
    page.get_by_role("radio", name="sequential ramp").check()
    page.keyboard.press("Escape")
    measure = page.get_by_role("button", name="Measure of difference: OKLab")
    expect(measure).to_be_visible()
    measure.click()
    page.get_by_role("radio", name="CIEDE2000").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_text(re.compile("by CIEDE2000$")).first).to_be_visible()
    scan(page)
