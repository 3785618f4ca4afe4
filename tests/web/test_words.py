"""The words of the interface: every visible text of the demo workshop, held against the words that are not ours."""

import re

import pytest
from scripts.words import Texts, texts

from anvilsong.demo.machines import MACHINES

# Not said anywhere outside a panel's own labels, each with what is said instead.
NOT_SAID = {
    r"\b[Mm]achine at\b(?! this)": "machine amps",
    r"\b[Cc]eiling\b": "machine amps",
    r"\b[Uu]nder the foot\b|\b[Tt]he foot\b": "welding amps, pedal",
    r"\b[Pp]ositive (trim|share|half)\b|\b[Tt]rim(med|s)?\b": "EP amplitude",
    r"(?<!AC )\b[Bb]alance\b|EP share": "AC balance, in % EP",
    r"\b([Uu]p|[Dd]own)-slope\b|\b[Rr]amps?\b": "upslope, downslope",
    r"\b[Bb]eats?\b|\b[Ff]loor\b": "pulse, background amps",
    r"(?<!filler )(?<!Filler )\b[Rr]ods?\b": "filler rod",
    r"\b[Ss]trays?\b|\b[Dd]ose\b": "wanders, charge",
    r"\bSound from\b|\(cold\)": "works from … to …",
    r"\b[Hh]old(s|ing)?\b|\b[Hh]eld\b": "lock",
    r"\b[Ss]olv(e|es|ed|ing)\b": "work out",
    r"\b[Ss]chools?\b": "way of working",
    r"\b[Ll]adders?\b|\b[Rr]ungs?\b": "test series, coupon",
    r"\bRead ·": "result",
    r"\b[Rr]evisions?\b": "version",
    r"\b[Bb]ook\b": "logbook",
    r"\b[Ss]hop\b": "workshop",
    r"\b[Ww]eld it\b(?! dr)|welded in the computer|\b[Cc]ells?\b": "simulate, grid size",
    r"\b[Tt]he hand\b|\b[Aa] hand\b(?!-)": "you",
    r"\b[Nn]ominal\b": "estimate",
    r"\b[Kk]eeps?\b|\b[Kk]ept\b|\b[Pp]ut .{0,40}away\b|\b[Tt]ake (it|them) away\b": "save, archive, delete",
    r"is past its|[Nn]othing was given": "what is wrong, and what is allowed",
}  # fmt: skip
A_FILE = re.compile(r"/\S+\.sqlite")  # named as it is
SAID_SO = ("About a hand", "anvilsong serve --shop")  # a size of the part, and a command


@pytest.fixture(scope="module")
def dialects():
    """Every word of the demo's panels: a machine's own word may be any word."""
    labels = {control.label for machine in MACHINES for control in machine.controls}
    names = {name for machine in MACHINES for control in machine.controls for name in control.scale.names}
    return re.compile("|".join(re.escape(each) for each in sorted(labels | names, key=len, reverse=True)))


def test_every_page_says_the_trades_own_words(client, dialects):
    met = texts(client)
    assert len(met) > 3000, "the crawl does not reach the pages"
    wrong = [
        f"{address}: “{text}” (say {instead})"
        for text, address in met.items()
        for pattern, instead in NOT_SAID.items()
        if text not in SAID_SO and re.search(pattern, dialects.sub("", A_FILE.sub("", text)))
    ]
    assert not wrong, "\n".join(wrong[:40])


def test_the_crawl_sees_what_people_see():
    page = Texts(
        """<body><h1>Tune <small>3 mm</small></h1><script>hold()</script><p aria-label="More amps">a<br>b</p>
        <input type="submit" value="Save"><style>p{}</style></body>"""
    )
    assert page.found == ["Tune 3 mm", "More amps", "a", "b", "Save"]
