"""What hands do on a bench: nothing that was chosen is lost, undo undoes the last step, and the focus is where the work is."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in, settled
from tests.browser.test_gathering import typed
from tests.browser.test_typing import OPERATIONS, held


def colors(page: Page) -> str:
    return page.get_by_role("spinbutton", name="Number of colors").input_value()


def try_count(page: Page, count: int) -> None:
    """A number of colors that is tried out and not kept."""
    page.get_by_role("spinbutton", name="Number of colors").fill(str(count))
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Keep", exact=True)).to_be_enabled()
    expect(page.get_by_role("option")).to_have_count(count)


def test_a_recipe_that_is_not_kept_survives_other_stages_and_a_reload(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    expect(page.get_by_role("option")).to_have_count(24)
    try_count(page, 16)
    page.keyboard.press("3")
    page.get_by_role("tab", name="Sort").click()
    settled(page)
    page.keyboard.press("2")
    expect(page.get_by_role("option")).to_have_count(16)
    assert colors(page) == "16"
    page.reload()
    expect(page.get_by_role("option")).to_have_count(16)
    assert colors(page) == "16"
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(24)
    page.reload()
    settled(page)
    expect(page.get_by_role("option")).to_have_count(24)
    assert colors(page) == "24"


def test_a_recipe_survives_colors_that_are_picked_meanwhile(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    try_count(page, 16)
    page.keyboard.press("1")
    page.get_by_role("tab", name="From a picture").click()
    stage = page.get_by_role("application", name="Pick a color here").bounding_box()
    assert stage
    for share in (0.3, 0.6):
        page.mouse.click(stage["x"] + stage["width"] * share, stage["y"] + stage["height"] * 0.5)
    page.get_by_role("button", name="Add 2").click()
    expect(page.get_by_text("saved")).to_be_visible()
    page.keyboard.press("2")
    settled(page)
    assert colors(page) == "16"


def test_what_is_kept_is_no_longer_tried_out(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    try_count(page, 12)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("12 swatches · saved")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    settled(page)
    assert colors(page) == "24"
    expect(page.get_by_role("button", name="Keep", exact=True)).to_have_count(0)


def test_undo_while_a_step_is_being_saved_undoes_that_step(page: Page) -> None:
    typed(page, "#102030 #ffcc66 #c04030", 3)
    page.get_by_role("option").first.click()
    with held(page, OPERATIONS):
        page.keyboard.press("Delete")
        page.keyboard.press("Control+z")
        expect(page.get_by_text("3 swatches · saving")).to_be_visible()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    expect(page.get_by_role("option", name="#102030")).to_be_visible()
    page.get_by_role("option").first.click()
    with held(page, OPERATIONS):
        page.keyboard.press("Delete")
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    expect(page.get_by_role("option", name="#102030")).to_be_visible()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()


def test_undo_while_a_typed_line_is_on_its_way_takes_that_line_back(page: Page) -> None:
    typed(page, "#102030 #ffcc66", 2)
    with held(page, "**/api/colors/parse"):
        page.keyboard.press("a")
        page.keyboard.type("Lamp #ffee00")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.keyboard.press("Control+z")
    expect(page.get_by_role("list", name="Being added")).to_have_count(0)
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    expect(page.get_by_role("option", name="#ffcc66")).to_be_visible()


def focused(page: Page) -> str:
    return page.evaluate("document.activeElement.id || document.activeElement.tagName")


def test_the_focus_is_where_the_work_is(page: Page, picture: bytes) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    expect(page.get_by_label("Type or paste colors")).to_be_focused()
    bring_in(page, picture)
    expect(page.locator("#strip-list")).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("option").nth(1)).to_be_focused()
    page.keyboard.press("3")
    expect(page.get_by_role("tab", name="Arrange")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_role("option").nth(1)).to_be_focused()
    page.get_by_role("tab", name="Sort").click()
    page.keyboard.press("6")
    expect(page.locator("#stage")).to_be_focused()
    page.keyboard.press("a")
    expect(page.get_by_label("Type or paste colors")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.locator("#strip-list")).to_be_focused()
    page.keyboard.press("End")
    expect(page.get_by_role("option").last).to_be_focused()


def test_letters_work_in_a_number_field_that_is_not_being_edited(page: Page) -> None:
    typed(page, "#102030 #ffcc66 #c04030", 3)
    page.get_by_role("option").first.click()
    page.keyboard.press("3")
    page.get_by_role("tab", name="Adjust").click()
    number = page.locator("#stage input[type=number]").first
    number.focus()
    page.keyboard.press("l")
    expect(page.get_by_role("option", name="#102030, locked")).to_be_visible()
    number.fill("12")
    page.keyboard.press("l")
    page.keyboard.press("Control+z")
    settled(page)
    expect(page.get_by_role("option", name="#102030, locked")).to_be_visible()


def test_a_reload_comes_back_to_the_stage(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.keyboard.press("5")
    expect(page.get_by_role("tab", name="Check")).to_have_attribute("aria-selected", "true")
    page.reload()
    expect(page.get_by_role("tab", name="Check")).to_have_attribute("aria-selected", "true")


def open_word(page: Page, label: str) -> None:
    page.get_by_role("button", name=label).click()


def test_colors_to_keep_are_typed_and_picked_where_they_are_wanted(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    try_count(page, 8)
    open_word(page, "Locked swatches:")
    page.get_by_label("Colors to keep").fill("Lamp core #ff00ff")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Colors to keep")).to_have_value("")
    expect(page.get_by_role("option", name="Lamp core, #ff00ff, locked")).to_be_visible()
    expect(page.get_by_role("option")).to_have_count(8)
    page.keyboard.type("Cadmium #ed872g")
    page.keyboard.press("Enter")
    bad = page.get_by_role("textbox", name="Line to mend: Cadmium #ed872g")
    bad.fill("Cadmium #ed8720")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Cadmium, #ed8720, locked")).to_be_visible()
    page.get_by_role("button", name="Pick in the picture").click()
    picker = page.get_by_role("application", name="Pick a color here")
    picker.click(position={"x": 300, "y": 150})
    expect(page.get_by_role("list", name="Kept colors").get_by_role("listitem")).to_have_count(3)
    expect(page.get_by_role("option")).to_have_count(8)
    page.keyboard.press("Escape")
    expect(picker).to_have_count(0)
    assert colors(page) == "8"
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("8 swatches · saved")).to_be_visible()
    expect(page.get_by_role("option", name="locked")).to_have_count(3)


def test_a_list_is_typed_where_it_is_chosen_and_its_count_follows(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    open_word(page, "How colors are chosen:")
    page.get_by_role("radio", name="the best of a list").click()
    page.keyboard.press("Escape")
    expect(page.get_by_text("The list holds too few colors yet")).to_be_visible()
    expect(page.get_by_text("ΔE close up …")).to_be_visible()
    expect(page.get_by_role("button", name="Keep", exact=True)).to_be_disabled()
    open_word(page, "The list:")
    field = page.get_by_label("Type or paste the colors")
    field.fill("Ink #102030\n#ffcc66 #c04030 #8090a0\nCadmium #ed872g")
    expect(page.get_by_role("list", name="Not understood").get_by_role("mark")).to_have_text("#ed872g")
    expect(page.get_by_role("button", name="The list: these 4 colors")).to_be_visible()
    expect(page.get_by_role("option")).to_have_count(4)
    field.fill("Ink #102030\n#ffcc66 #c04030 #8090a0\nCadmium #ed8720")
    expect(page.get_by_role("option")).to_have_count(5)
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="The list: these 5 colors")).to_be_visible()
    assert colors(page) == "5"
    page.reload()
    expect(page.get_by_role("option")).to_have_count(5)
    open_word(page, "The list:")
    expect(field).to_have_value("Ink #102030\n#ffcc66 #c04030 #8090a0\nCadmium #ed8720")


def test_figures_are_never_those_of_another_recipe(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    settled(page)
    page.evaluate(
        """() => {
          window.seen = [];
          const look = () => {
            const sentence = document.querySelector('fieldset legend')?.parentElement?.innerText ?? '';
            const figures = document.body.innerText.match(/ΔE close up\\s+(\\S+)/)?.[1];
            const busy = document.querySelector('[role=progressbar][aria-label=Reducing]') !== null;
            window.seen.push([sentence.includes('none'), figures, busy]);
            requestAnimationFrame(look);
          };
          look();
        }"""
    )
    try_count(page, 4)
    settled(page)
    seen = page.evaluate("window.seen")
    assert all(figures == "…" for _, figures, busy in seen if busy), "a figure was shown while another recipe was on its way"
    assert any(busy for *_, busy in seen)


def test_what_was_delivered_last_is_remembered_for_each_palette(page: Page) -> None:
    typed(page, "#102030 #ffcc66", 2, "Inks")
    page.keyboard.press("6")
    page.get_by_role("radio", name=".hex code list").click()
    expect(page.get_by_role("button", name="Download .hex")).to_be_enabled()
    typed(page, "#304050 #405060", 2, "Lamps")
    page.keyboard.press("6")
    expect(page.get_by_role("radio", name=".hex code list")).not_to_be_checked()
    page.goto("/")
    page.get_by_role("button", name=re.compile("^Inks 2")).click()
    expect(page.locator("#strip-list")).to_be_focused()
    page.keyboard.press("6")
    expect(page.get_by_role("radio", name=".hex code list")).to_be_checked()
    page.reload()
    expect(page.get_by_role("radio", name=".hex code list")).to_be_checked()


def test_a_code_that_is_typed_is_kept_once_and_escape_leaves_the_field(page: Page) -> None:
    typed(page, "#e85421 #1b1a1d", 2)
    page.get_by_role("option").first.click()
    field = page.get_by_label("Hex or any color notation")
    field.fill("#123456")
    # Enter, and away at once: one step, not two.
    with held(page, OPERATIONS):
        page.keyboard.press("Enter")
        page.keyboard.press("Tab")
    expect(page.get_by_role("option", name=re.compile("#123456"))).to_be_visible()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("dialog").get_by_role("button", name=re.compile("Recolor"))).to_have_count(1)
    page.keyboard.press("Escape")
    field.fill("#abcdef")
    page.keyboard.press("Escape")
    expect(field).to_have_value("#123456")
    page.keyboard.press("3")
    expect(page.get_by_role("tab", name="Arrange")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_role("option", name=re.compile("#abcdef"))).to_have_count(0)


def codes(page: Page) -> list[str]:
    """The colors of the strip, in order."""
    labels = [option.get_attribute("aria-label") or "" for option in page.get_by_role("option").all()]
    return [match[0] for label in labels if (match := re.search("#[0-9a-f]{6}", label))]


def test_moves_are_seen_at_once_and_each_key_counts_from_there(page: Page) -> None:
    typed(page, "#102030 #ffcc66 #c04030 #306020 #80c0e0", 5)
    page.get_by_role("option").first.click()
    page.evaluate("""() => {
      window.orders = new Set();
      const look = () => { orders.add([...document.querySelectorAll('#strip-list [role=option]')]
        .map((cell) => cell.getAttribute('aria-label').match(/#[0-9a-f]{6}/)[0]).join(' ')); requestAnimationFrame(look); };
      look();
    }""")
    with held(page, OPERATIONS):
        for _ in range(3):
            page.keyboard.press("Control+ArrowRight")
        assert codes(page) == ["#ffcc66", "#c04030", "#306020", "#102030", "#80c0e0"]
        expect(page.get_by_role("complementary", name="Readout").get_by_label("Name of swatch 3")).to_be_visible()
        expect(page.get_by_text("5 swatches · saving")).to_be_visible()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    assert codes(page) == ["#ffcc66", "#c04030", "#306020", "#102030", "#80c0e0"]
    # It never stood farther left again than it had come.
    places = [order.split().index("#102030") for order in page.evaluate("[...orders]")]
    assert places == sorted(places)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option").nth(2)).to_have_attribute("aria-label", re.compile("#102030"))
    page.reload()
    expect(page.get_by_role("option")).to_have_count(5)
    assert codes(page) == ["#ffcc66", "#c04030", "#102030", "#306020", "#80c0e0"]


def test_a_move_that_is_refused_goes_back(page: Page) -> None:
    typed(page, "#102030 #ffcc66 #c04030", 3)
    page.get_by_role("option").first.click()
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("option")).to_have_count(3)
    with held(page, OPERATIONS), held(page, "**/api/changes**"):
        page.keyboard.press("Control+ArrowRight")
        assert codes(page)[1] == "#102030"
        other.get_by_role("option").first.click()
        other.keyboard.press("Delete")
        expect(other.get_by_text("2 swatches · saved")).to_be_visible()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    assert codes(page) == ["#ffcc66", "#c04030"]
    expect(page.get_by_role("button", name="Make my step again")).to_be_visible()


def test_whoever_leaves_while_a_step_is_under_way_is_asked_and_the_step_is_said_to_be_so_at_once(page: Page) -> None:
    typed(page, "#102030 #ffcc66 #c04030", 3)
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    with held(page, OPERATIONS):
        # What stands there in the very task of the key, before anything is drawn or answered.
        page.evaluate(
            """() => addEventListener("keydown", () => setTimeout(() => {
                window.stood = document.querySelector("header [role=status]").textContent;
            }), { once: true, capture: true })"""
        )
        page.get_by_label("Palette name").fill("Glaze trials")
        page.keyboard.press("Enter")
        page.wait_for_function("window.stood !== undefined")
        assert page.evaluate("window.stood") == "3 swatches · saving …"
        with page.expect_event("dialog") as leaving:
            page.evaluate("() => void setTimeout(() => location.reload())")
        assert leaving.value.type == "beforeunload"
        leaving.value.dismiss()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    asked: list[str] = []
    page.on("dialog", lambda dialog: asked.append(dialog.type))
    page.reload()
    expect(page.get_by_label("Palette name")).to_have_value("Glaze trials")
    assert not asked, "nobody is asked once it is saved"
