"""A complaint calls a field as its page does; no name of the program's inside is read by a person."""

import html
import re

import pytest

from anvilsong.core.board import AXES
from anvilsong.core.registry import BY_KEY
from anvilsong.web.field_words import in_words

HTML = {"accept": "text/html"}
NEW = {"title": "Lid", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}


@pytest.mark.parametrize(
    ("field", "words"),
    [
        ("a.thickness", "Thickness of side a"),
        ("bevel.root_face_mm", "Root face"),
        ("tungstens.3.count", "Tungstens"),  # the list that it stands in
        ("torch0_rated_a", "Torch 1, rated amps"),
        ("cylinder2_full", "Cylinder 3, gauge when full"),
        ("r4_changed", "Row 4, what was changed"),
        ("r2_bead_width_mm", "Row 2, bead width"),
        ("frequency_hz_low", "AC frequency, lowest"),
        ("amps_high", "Amps, turned all the way up"),
        ("value_amps_run", "Welding amps"),
        ("value_nowhere", "Value nowhere"),
        ("ep_share", "AC balance"),
        ("travel_mm_s", "Travel speed"),
        ("colour", "Colour"),
    ],
)
def test_a_field_has_its_words(field, words):
    assert in_words(field) == words


def test_every_axis_and_setting_has_words():
    for key in (*BY_KEY, *(f"value_{key}" for key in AXES)):
        assert not re.search(r"_|\b(mm|hz|ms|c|a|s)$", in_words(key)), key


@pytest.mark.parametrize(
    ("method", "address", "sent", "said"),
    [
        ("post", "/jobs/8/map", {"x": "frequency_hz", "value_frequency_hz": "x"}, "AC frequency: “x”"),
        ("post", "/jobs/8/tune", {"ep_share": "half"}, "AC balance: “half”"),
        ("post", "/jobs/new", NEW | {"part_width_mm": "wide"}, "Part, width: “wide”"),
        ("post", "/jobs/new", NEW | {"travel_mm_s": "quick"}, "Travel speed: “quick”"),
        ("get", "/swap", {"paste": "hello"}, "What they wrote: “hello”"),
        ("post", "/shop/machines/4/knob/ep_share", {"points": "noon"}, "Places: “noon”"),
        ("post", "/shop/machines/new", {"name": "N", "amps_low": "few"}, "Amps, turned all the way down: “few”"),
    ],
)  # fmt: skip
def test_a_page_calls_it_so(client, method, address, sent, said):
    send = {"params": sent} if method == "get" else {"data": sent}
    answer = client.request(method, address, headers=HTML, **send)
    assert answer.status_code == 422
    assert said in " ".join(html.unescape(re.sub("<[^>]*>", " ", answer.text)).split())
