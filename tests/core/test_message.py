"""Settings read out of a message: by the panel's own labels, signs as they are written, and what is not understood is told."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.machine import Control, Machine, Scale, read_message
from anvilsong.demo.machines import MACHINES

SIGNED = Machine(
    name="Signed",
    controls=(
        Control(setting="amps_set", label="Amps", scale=Scale(points=((5, 5), (200, 200)))),
        Control(
            setting="ep_share", label="AC balance", scale=Scale(points=((-5, 0.45), (5, 0.15)), signed=True)
        ),
        Control(setting="pulse_peak_share", label="Beat on", scale=Scale(points=((10, 0.1), (90, 0.9)))),
        Control(setting="pulse_rate_hz", label="Beat", scale=Scale(points=((0.5, 0.5), (20, 20)))),
    ),
)


@pytest.mark.parametrize(
    "written",
    [
        "–4",
        "−4",
        "-4",
        "— 4",
        "− 4",
        "- 4",
        "minus 4",
        "MINUS  4",
        ": -4",
        "= − 4",
        "is set to minus 4",
        "at -4",
    ],
)
def test_a_minus_is_a_minus_however_it_is_written(written):
    assert read_message(f"AC balance {written}", SIGNED).found == {"ep_share": "-4"}
    assert read_message(f"Amps 140, ac balance {written}; Beat 2", SIGNED).found["ep_share"] == "-4"


@pytest.mark.parametrize("written", ["4", "+4", "+ 4", "plus 4", ": 4", "= +4"])
def test_a_plus_is_a_plus(written):
    assert read_message(f"AC balance {written}", SIGNED).found == {"ep_share": "4"}


def test_a_dash_before_a_figure_that_cannot_be_under_zero_is_a_dash():
    assert read_message("Amps - 140", SIGNED).found == {"amps_set": "140"}


@pytest.mark.parametrize(
    "text", ["Beat on 40, Beat 2", "Beat 2, Beat on 40", "beat on: 40\nbeat: 2", "Beat on 40 Beat 2"]
)
def test_labels_do_not_run_into_one_another(text):
    message = read_message(text, SIGNED)
    assert message.found == {"pulse_peak_share": "40", "pulse_rate_hz": "2"}
    assert message.unread == ()
    assert message.unsaid == ("Amps", "AC balance")


def test_what_is_not_understood_is_told():
    message = read_message("Amps 140; balance a bit to cleaning 3\nAC balance about four\nfreq 90", SIGNED)
    assert message.found == {"amps_set": "140"}
    assert message.unread == ("balance a bit to cleaning 3", "freq 90")
    assert "AC balance" in message.unsaid
    twice = read_message("Amps 140, Amps 90", SIGNED)
    assert (twice.found, twice.unread) == ({"amps_set": "140"}, ("Amps 90",))
    assert read_message("about one forty, I think", SIGNED).found == {}


def test_words_of_a_panel():
    curlew = MACHINES[0]
    message = read_message("weld amps: 140, Cleaning = 28; ac wave soft", curlew)
    assert message.found == {"amps_set": "140", "ep_share": "28", "shape_en": "Soft"}
    assert message.unread == ()


@pytest.mark.parametrize("machine", MACHINES, ids=lambda machine: machine.name)
@given(data=st.data())
def test_whatever_a_panel_shows_is_read_back(machine, data):
    """Every control's label with a value of its scale, in any order, joined in any of the usual ways."""
    said, pieces = {}, []
    for control in data.draw(st.permutations(machine.controls)):
        if control.scale.names:
            value = data.draw(st.sampled_from(control.scale.names))
        else:
            low, high = control.scale.points[0][0], control.scale.points[-1][0]
            value = f"{data.draw(st.integers(int(-(-low // 1)), int(high // 1)))}"
        said[control.setting] = value
        join = data.draw(st.sampled_from([" ", ": ", " = ", " at "]))
        pieces.append(
            f"{control.label}{join}{value.replace('-', data.draw(st.sampled_from(['-', '−', 'minus '])))}"
        )
    message = read_message(data.draw(st.sampled_from([", ", "; ", "\n"])).join(pieces), machine)
    assert message.found == said
    assert message.unsaid == ()


@pytest.mark.parametrize(
    ("text", "found", "unread"),
    [
        ("140 amps 70 balance 90 hz", {"amps_set": "140", "ep_share": "70", "frequency_hz": "90"}, ()),
        ("140A, 70 % AC balance, 90Hz", {"amps_set": "140", "ep_share": "70", "frequency_hz": "90"}, ()),
        ("Amps 140 balance 70 hz 90", {"amps_set": "140"}, ("balance 70 hz 90",)),
        ("140 amps; AC balance 70", {"amps_set": "140", "ep_share": "70"}, ()),
        ("AC balance 70, 140 amps, 90", {"ep_share": "70", "amps_set": "140"}, ("90",)),
        ("Amps, 140", {}, ("Amps, 140",)),
        ("12,5 amps", {"amps_set": "12.5"}, ()),
        ("140 amps 90 amps", {"amps_set": "140"}, ("90 amps",)),
        ("2 mm 140 amps", {}, ("2 mm 140",)),
        ("1) Amps 60 AC balance 70", {"amps_set": "60", "ep_share": "70"}, ("1)",)),
        ("1 Amps 60 AC balance 70", {"amps_set": "60", "ep_share": "70"}, ("1",)),
        ("1. Amps 60\n2. AC balance 70", {"amps_set": "60", "ep_share": "70"}, ("1", "2")),
        ("3 a.m. shift: Amps 140", {"amps_set": "140"}, ("3 a.m. shift:",)),
        ("3 mm 5083: Amps 140 AC balance 70", {"amps_set": "140", "ep_share": "70"}, ("3 mm 5083:",)),
        ("140 amperage 3 balanced", {}, ("140 amperage 3 balanced",)),
        ("1.2.140 amps", {}, ("1.2.140",)),
        ("140", {}, ("140",)),
    ],
)
def test_figures_before_their_words(text, found, unread):
    """As people write it down: a piece that begins with a figure has each figure before its word."""
    machine = Machine(
        name="Plain",
        controls=(
            Control(setting="amps_set", label="Amps", scale=Scale(points=((5, 5), (200, 200)))),
            Control(setting="ep_share", label="AC balance", scale=Scale(points=((50, 0.5), (90, 0.1)))),
            Control(setting="frequency_hz", label="Output", scale=Scale(points=((20, 20), (200, 200)))),
        ),
    )
    message = read_message(text, machine)
    assert (message.found, message.unread) == (found, unread)


@given(
    st.permutations([("140", "amps"), ("-4", "AC balance"), ("2", "Beat"), ("40", "Beat on")]), st.booleans()
)
def test_either_order_gives_the_same(pairs, first):
    said = ", ".join(f"{figure} {name}" if first else f"{name} {figure}" for figure, name in pairs)
    assert read_message(said, SIGNED).found == {
        "amps_set": "140", "ep_share": "-4", "pulse_rate_hz": "2", "pulse_peak_share": "40",
    }  # fmt: skip
