"""Joints of tubes as small pictures for choosing: in section they look like joints of plates."""

from __future__ import annotations

from anvilsong.core.joint import find_joint
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT = 440.0, 330.0


def tube_icon(joint: str) -> Drawn:
    """A tube joint from outside: the round ends say what it is."""
    words = sentence("web.joint_from_outside", words=find_joint(joint).words)
    drawing = Drawing(WIDTH, HEIGHT, words, "", "drawing section tube-icon")
    if joint == "tube_tube":
        drawing.rect(20, 140, 200, 110, "plate side-a")
        drawing.rect(220, 140, 180, 110, "plate side-b")
        drawing.add('<ellipse class="plate side-b" cx="400" cy="195" rx="24" ry="55"/>')
        drawing.add('<ellipse class="tube-bore" cx="400" cy="195" rx="16" ry="40"/>')
        drawing.rect(210, 136, 20, 118, "tube-bead")
    else:
        drawing.polygon([(20, 240), (110, 180), (420, 180), (330, 240)], "plate side-a")
        drawing.rect(20, 240, 310, 24, "plate side-a")
        drawing.rect(160, 70, 120, 140, "plate side-b")
        drawing.add('<ellipse class="tube-bead" cx="220" cy="210" rx="68" ry="22"/>')
        drawing.add('<path class="plate side-b" d="M 160 70 V 206 A 60 18 0 0 0 280 206 V 70 Z"/>')
        drawing.add('<ellipse class="plate side-b" cx="220" cy="70" rx="60" ry="18"/>')
        drawing.add('<ellipse class="tube-bore" cx="220" cy="70" rx="46" ry="12"/>')
    return drawing.render()
