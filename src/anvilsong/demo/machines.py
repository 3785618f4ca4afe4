"""Three invented machines with three ways of showing the same balance."""

from __future__ import annotations

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.machine.model import Control, Duty, Machine, Scale


def _digits(setting: str, label: str, low: float, high: float, step: float, unit: str, decimals: int = 0) -> Control:
    """A control whose digits are the canonical value itself."""
    return Control(setting=setting, label=label, scale=Scale(points=((low, low), (high, high)), step=step, unit=unit, decimals=decimals))


def _waves(label: str, **names: str) -> Control:
    """A waveform selector: the owner's words for the shapes the machine has."""
    points = tuple((float(place), float(SHAPES.index(shape))) for place, shape in enumerate(names))
    return Control(setting="shape_en", label=label, scale=Scale(points=points, shown_as="names", names=tuple(names.values())))


CURLEW = Machine(
    name="Curlew 220",
    least_a=5,
    most_a=220,
    duty=Duty(amps=220, share=0.30),
    least_frequency_hz=40,
    most_frequency_hz=200,
    least_ep_share=0.15,
    most_ep_share=0.50,
    shapes=("square", "soft", "sine"),
    can_trim=False,
    can_mix=False,
    torch_amps=200,
    torch_duty=1.0,
    water_cooled=True,
    memory_slots=9,
    note="The bench machine. Balance counts the positive share.",
    controls=(
        _digits("amps_set", "Weld amps", 5, 220, 1, "A"),
        Control(setting="ep_share", label="Cleaning", scale=Scale(points=((15, 0.15), (50, 0.50)), step=1, unit="% pos")),
        _digits("frequency_hz", "AC rate", 40, 200, 1, "Hz"),
        _waves("AC wave", square="Hard", soft="Soft", sine="Round"),
        _digits("start_amps", "Hot tip", 5, 110, 1, "A"),
        _digits("up_slope_s", "Rise", 0, 10, 0.1, "s", 1),
        _digits("down_slope_s", "Fall", 0, 15, 0.1, "s", 1),
        _digits("finish_amps", "Crater", 5, 110, 1, "A"),
        _digits("pre_flow_s", "Gas before", 0, 5, 0.1, "s", 1),
        _digits("post_flow_s", "Gas after", 0, 45, 1, "s"),
    ),
)

HERON = Machine(
    name="Heron 320",
    least_a=8,
    most_a=320,
    duty=Duty(amps=320, share=0.40),
    least_frequency_hz=30,
    most_frequency_hz=250,
    least_ep_share=0.10,
    most_ep_share=0.60,
    shapes=SHAPES,
    can_trim=True,
    least_trim=-0.5,
    most_trim=0.3,
    torch_amps=260,
    torch_duty=1.0,
    water_cooled=True,
    memory_slots=40,
    note="The big one. Balance counts the negative share; both halves' amps can be set apart.",
    controls=(
        _digits("amps_set", "Main current", 8, 320, 2, "A"),
        # Percent EN: rising digits mean falling EP share.
        Control(setting="ep_share", label="Heat share", scale=Scale(points=((40, 0.60), (90, 0.10)), step=1, unit="% neg")),
        _digits("frequency_hz", "Cycle rate", 30, 250, 5, "Hz"),
        Control(setting="ep_trim", label="Clean level", scale=Scale(points=((50, -0.5), (130, 0.3)), step=5, unit="% of main")),
        _waves("Edge", square="Steep", soft="Eased", trapezoid="Sloped", sine="Wavy", triangle="Pointed"),
        _digits("start_amps", "Ignition", 8, 160, 2, "A"),
        _digits("up_slope_s", "Ramp in", 0, 9.5, 0.5, "s", 1),
        _digits("down_slope_s", "Ramp out", 0, 19.5, 0.5, "s", 1),
        _digits("finish_amps", "Last amps", 8, 160, 2, "A"),
        _digits("pre_flow_s", "Lead gas", 0, 10, 0.1, "s", 1),
        _digits("post_flow_s", "Trail gas", 0, 60, 1, "s"),
    ),
)

DUNLIN = Machine(
    name="Dunlin 180",
    least_a=10,
    most_a=180,
    duty=Duty(amps=180, share=0.25),
    least_frequency_hz=50,
    most_frequency_hz=150,
    least_ep_share=0.18,
    most_ep_share=0.48,
    shapes=("soft",),
    can_trim=False,
    can_pulse=False,
    can_mix=False,
    torch_amps=125,
    torch_duty=0.35,
    water_cooled=False,
    note="The site machine, air-cooled torch. Balance is a signed scale; plus means more penetration.",
    controls=(
        _digits("amps_set", "Amps", 10, 180, 5, "A"),
        # −10..+10, plus deeper: the ends of the owner's manual.
        Control(setting="ep_share", label="AC balance", scale=Scale(points=((-10, 0.48), (10, 0.18)), step=1, unit="", signed=True)),
        _digits("frequency_hz", "Frequency", 50, 150, 10, "Hz"),
        _digits("up_slope_s", "Slope up", 0, 5, 0.5, "s", 1),
        _digits("down_slope_s", "Slope down", 0, 10, 0.5, "s", 1),
        _digits("post_flow_s", "Afterflow", 2, 20, 2, "s"),
    ),
)

MACHINES: tuple[Machine, ...] = (CURLEW, HERON, DUNLIN)
