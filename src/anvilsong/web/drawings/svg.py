"""A small SVG writer: shapes in, text out. Colours live in the style sheet, by class."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from html import escape as quoted

from markupsafe import Markup

from anvilsong.core.said import Said, Words
from anvilsong.core.units import UnitSystem

Point = tuple[float, float]


def number(value: float) -> str:
    """A coordinate, short."""
    text = f"{value:.2f}"
    if text[-1] != "0":
        return text
    return text[:-1] if text[-2] != "0" else text[:-3]


def points(path: Iterable[Point]) -> str:
    return " ".join([f"{number(x)},{number(y)}" for x, y in path])


def scattered(count: int) -> Iterator[Point]:
    """So many points spread evenly over the unit square, the same ones each time (the plane's golden ratio)."""
    for n in range(1, count + 1):
        yield (n * 0.7548776662) % 1, (n * 0.5698402910) % 1


class Drawn(Said):
    """A drawing: markup with words in it, which are escaped once they are in a reader's units."""

    __slots__ = ("parts",)

    def __init__(self, *parts: Markup | Words) -> None:
        self.parts = tuple(_merged(parts))

    def in_units(self, system: UnitSystem) -> Markup:
        return Markup(
            "".join([part if isinstance(part, str) else quoted(part.in_units(system)) for part in self.parts])
        )

    def stored(self) -> str:
        return str(self.in_units("mm"))

    def __bool__(self) -> bool:
        return any(self.parts)


def _merged(parts: Iterable[Markup | Words]) -> Iterator[Markup | Said]:
    """Markup and words that are plain text already, put together as far as they go; the rest between."""
    text = list[str]()
    for part in parts:
        if isinstance(part, str):
            text.append(part if isinstance(part, Markup) else quoted(part))
            continue
        if text:
            yield Markup("".join(text))
            text.clear()
        yield part
    if text:
        yield Markup("".join(text))


NOTHING = Drawn()


def drawn_together(drawings: Iterable[Drawn]) -> Drawn:
    """Several drawings one after the other."""
    return Drawn(*(part for drawing in drawings for part in drawing.parts))


END_OF_TEXT = Markup("</text>")


class Drawing:
    """Collects elements; ``render`` wraps them with a title and a description for those who cannot see it."""

    def __init__(
        self, width: float, height: float, title: Words, description: Words, css: str = "drawing"
    ) -> None:
        self.width, self.height, self.title, self.description, self.css = (
            width,
            height,
            title,
            description,
            css,
        )
        self._parts: list[Markup | Words] = []
        self.role = "img"
        self.data: dict[str, str] = {}
        """What a script reads from the drawing, as ``data-`` attributes."""

    def add(self, markup: str) -> None:
        self._parts.append(Markup(markup))

    def _element(self, name: str, css: str, attributes: str) -> None:
        self.add(f'<{name} class="{css}" {attributes}/>')

    def polygon(self, path: Iterable[Point], css: str) -> None:
        self._element("polygon", css, f'points="{points(path)}"')

    def polyline(self, path: Iterable[Point], css: str) -> None:
        self._element("polyline", css, f'points="{points(path)}" fill="none"')

    def path(self, d: str, css: str) -> None:
        self._element("path", css, f'd="{d}"')

    def line(self, a: Point, b: Point, css: str) -> None:
        self._element(
            "line", css, f'x1="{number(a[0])}" y1="{number(a[1])}" x2="{number(b[0])}" y2="{number(b[1])}"'
        )

    def rect(self, x: float, y: float, width: float, height: float, css: str, radius: float = 0) -> None:
        self._element(
            "rect",
            css,
            f'x="{number(x)}" y="{number(y)}" width="{number(width)}" height="{number(height)}" rx="{number(radius)}"',
        )

    def circle(self, at: Point, radius: float, css: str) -> None:
        self._element("circle", css, f'cx="{number(at[0])}" cy="{number(at[1])}" r="{number(radius)}"')

    def text(self, at: Point, words: Words, css: str = "label", anchor: str = "start") -> None:
        self.add(f'<text class="{css}" x="{number(at[0])}" y="{number(at[1])}" text-anchor="{anchor}">')
        self._parts += (words, END_OF_TEXT)

    def render(self) -> Drawn:
        data = "".join(f'data-{name}="{quoted(value)}" ' for name, value in self.data.items())
        size = f"0 0 {number(self.width)} {number(self.height)}"
        return Drawn(
            Markup(f'<svg {data}class="{self.css}" viewBox="{size}" role="{self.role}" aria-label="'),
            self.title,
            Markup('" xmlns="http://www.w3.org/2000/svg"><title>'),
            self.title,
            Markup("</title><desc>"),
            self.description,
            Markup("</desc>"),
            *self._parts,
            Markup("</svg>"),
        )
