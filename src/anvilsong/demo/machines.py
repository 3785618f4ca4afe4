"""Seven invented machines, each with a dialect of its own."""

from __future__ import annotations

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.machine import Control, Duty, LowSupply, Machine, Scale, TriggerControl


def _digits(
    setting: str, label: str, low: float, high: float, step: float, unit: str, decimals: int = 0
) -> Control:
    """A control whose digits are the canonical value itself."""
    return Control(
        setting=setting,
        label=label,
        scale=Scale(points=((low, low), (high, high)), step=step, unit=unit, decimals=decimals),
    )


def _waves(label: str, **names: str) -> Control:
    """A waveform selector: the owner's words for the shapes the machine has."""
    points = tuple((float(place), float(SHAPES.index(shape))) for place, shape in enumerate(names))
    return Control(
        setting="shape_en",
        label=label,
        scale=Scale(points=points, shown_as="names", names=tuple(names.values())),
    )


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
    note="The bench machine. Its panel counts % EP.",
    controls=(
        _digits("amps_set", "Weld amps", 5, 220, 1, "A"),
        Control(
            setting="ep_share",
            label="Cleaning",
            scale=Scale(points=((15, 0.15), (50, 0.50)), step=1, unit="% pos"),
        ),
        _digits("frequency_hz", "AC rate", 40, 200, 1, "Hz"),
        _waves("AC wave", square="Hard", soft="Soft", sine="Round"),
        _digits("start_amps", "Hot tip", 5, 110, 1, "A"),
        _digits("up_slope_s", "Rise", 0, 10, 0.1, "s", 1),
        _digits("down_slope_s", "Fall", 0, 15, 0.1, "s", 1),
        _digits("finish_amps", "Crater", 5, 110, 1, "A"),
        _digits("pre_flow_s", "Gas before", 0, 5, 0.1, "s", 1),
        _digits("post_flow_s", "Gas after", 0, 45, 1, "s"),
        _digits("pulse_rate_hz", "Beat", 0.5, 40, 0.1, "a second", 1),
        Control(
            setting="pulse_peak_share",
            label="Beat on",
            scale=Scale(points=((10, 0.1), (90, 0.9)), step=1, unit="%"),
        ),
        Control(
            setting="pulse_base_share",
            label="Beat floor",
            scale=Scale(points=((5, 0.05), (90, 0.9)), step=1, unit="%"),
        ),
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
    automatic=True,
    note="The big one. Its panel counts % EN; the EP amplitude can be set.",
    controls=(
        _digits("amps_set", "Main current", 8, 320, 2, "A"),
        # Percent EN: rising digits mean falling EP share.
        Control(
            setting="ep_share",
            label="Heat share",
            scale=Scale(points=((40, 0.60), (90, 0.10)), step=1, unit="% neg"),
        ),
        _digits("frequency_hz", "Cycle rate", 30, 250, 5, "Hz"),
        Control(
            setting="ep_trim",
            label="Clean level",
            scale=Scale(points=((50, -0.5), (130, 0.3)), step=5, unit="% of main"),
        ),
        _waves("Edge", square="Steep", soft="Eased", trapezoid="Sloped", sine="Wavy", triangle="Pointed"),
        _digits("start_amps", "Ignition", 8, 160, 2, "A"),
        _digits("up_slope_s", "Ramp in", 0, 9.5, 0.5, "s", 1),
        _digits("down_slope_s", "Ramp out", 0, 19.5, 0.5, "s", 1),
        _digits("finish_amps", "Last amps", 8, 160, 2, "A"),
        _digits("pre_flow_s", "Lead gas", 0, 10, 0.1, "s", 1),
        _digits("post_flow_s", "Trail gas", 0, 60, 1, "s"),
        _digits("pulse_rate_hz", "Pulses", 0.1, 200, 0.1, "Hz", 1),
        Control(
            setting="pulse_peak_share",
            label="High time",
            scale=Scale(points=((5, 0.05), (95, 0.95)), step=5, unit="%"),
        ),
        Control(
            setting="pulse_base_share",
            label="Low level",
            basis="amps",
            scale=Scale(points=((8, 8), (300, 300)), step=2, unit="A"),
        ),
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
    note="The site machine, air-cooled torch. Its AC balance is a signed scale; plus means more penetration.",
    controls=(
        _digits("amps_set", "Amps", 10, 180, 5, "A"),
        # −10..+10, plus deeper: the ends of the owner's manual.
        Control(
            setting="ep_share",
            label="AC balance",
            scale=Scale(points=((-10, 0.48), (10, 0.18)), step=1, unit="", signed=True),
        ),
        _digits("frequency_hz", "Frequency", 50, 150, 10, "Hz"),
        _digits("up_slope_s", "Slope up", 0, 5, 0.5, "s", 1),
        _digits("down_slope_s", "Slope down", 0, 10, 0.5, "s", 1),
        _digits("post_flow_s", "Afterflow", 2, 20, 2, "s"),
    ),
)

PLOVER = Machine(
    name="Plover 200",
    least_a=6,
    most_a=200,
    duty=Duty(amps=200, share=0.25),
    low_supply=LowSupply(volts=115, most_a=130, duty=Duty(amps=130, share=0.30)),
    least_frequency_hz=40,
    most_frequency_hz=160,
    least_ep_share=0.15,
    most_ep_share=0.45,
    shapes=("soft", "triangle"),
    can_trim=False,
    can_pulse=False,
    can_mix=False,
    torch_amps=160,
    torch_duty=0.35,
    water_cooled=False,
    note="Knobs without numbers, as clocks. The digits show the mean of the cycle.",
    controls=(
        Control(
            setting="amps_set",
            label="Amp window",
            basis="mean",
            scale=Scale(points=((4, 4), (180, 180)), step=1, unit="A"),
        ),
        # Found by tracing the current: seven o'clock is deepest, five o'clock cleans most.
        Control(
            setting="ep_share",
            label="Deep … clean",
            scale=Scale(
                points=((7, 0.15), (9.5, 0.20), (12, 0.28), (14.5, 0.37), (17, 0.45)),
                step=0.25,
                shown_as="clock",
            ),
        ),
        Control(
            setting="frequency_hz",
            label="Slow … fast",
            scale=Scale(
                points=((7, 40), (10, 62), (12, 85), (14, 115), (17, 160)), step=0.25, shown_as="clock"
            ),
        ),
        _waves("Tip", soft="Flat", triangle="Keen"),
        Control(
            setting="post_flow_s",
            label="Gas tail",
            scale=Scale(points=((0, 2), (100, 25)), step=5, shown_as="percent", unit="%"),
        ),
    ),
)

CORMORANT = Machine(
    name="Cormorant, old",
    least_a=20,
    most_a=300,
    duty=Duty(amps=300, share=0.40),
    least_frequency_hz=50,
    most_frequency_hz=50,
    least_ep_share=0.50,
    most_ep_share=0.50,
    least_half_ms=1.0,
    shapes=("sine",),
    can_trim=False,
    can_pulse=False,
    can_mix=False,
    torch_amps=200,
    water_cooled=True,
    triggers=("pedal", "switch_2"),
    note="A sine transformer on the mains: AC balance and AC frequency cannot be set. The scale shows rms.",
    controls=(
        Control(
            setting="amps_set",
            label="Crank",
            basis="rms",
            scale=Scale(points=((14, 14), (212, 212)), step=2, unit="A"),
        ),
        Control(
            setting="post_flow_s", label="Gas timer", scale=Scale(points=((0, 0), (60, 60)), step=5, unit="s")
        ),
    ),
)

GANNET = Machine(
    name="Gannet 350",
    least_a=5,
    most_a=350,
    duty=Duty(amps=350, share=0.40),
    least_frequency_hz=20,
    most_frequency_hz=400,
    least_ep_share=0.10,
    most_ep_share=0.70,
    least_half_ms=0.4,
    torch_amps=300,
    memory_slots=99,
    can_name_memory=True,
    automatic=True,
    triggers=("pedal", "switch_2", "switch_4", "switch_4_two_levels"),
    trigger_controls=(
        TriggerControl(
            what="second_level",
            label="Second amps",
            basis="share_of_set",
            scale=Scale(points=((10, 0.1), (100, 1.0)), step=5, unit="%"),
        ),
    ),
    note="Both halves' amps have dials of their own; mixes AC and DC.",
    controls=(
        _digits("amps_set", "Minus amps", 5, 350, 1, "A"),
        Control(
            setting="ep_trim",
            label="Plus amps",
            basis="ep_amps",
            scale=Scale(points=((3, 3), (350, 350)), step=1, unit="A"),
        ),
        Control(
            setting="ep_share",
            label="Plus time",
            scale=Scale(points=((10, 0.10), (70, 0.70)), step=1, unit="%"),
        ),
        _digits("frequency_hz", "Turns", 20, 400, 1, "Hz"),
        _waves("Minus form", square="Box", soft="Loaf", trapezoid="Roof", sine="Arch", triangle="Gable"),
        Control(
            setting="shape_ep",
            label="Plus form",
            scale=Scale(
                points=tuple((float(n), float(n)) for n in range(5)),
                shown_as="names",
                names=("Box", "Loaf", "Roof", "Arch", "Gable"),
            ),
        ),
        Control(
            setting="start_amps",
            label="First amps",
            basis="share_of_set",
            scale=Scale(points=((1, 0.01), (150, 1.5)), step=1, unit="%"),
        ),
        Control(
            setting="finish_amps",
            label="End amps",
            basis="share_of_set",
            scale=Scale(points=((1, 0.01), (100, 1.0)), step=1, unit="%"),
        ),
        _digits("up_slope_s", "Climb", 0, 10, 0.1, "s", 1),
        _digits("down_slope_s", "Descent", 0, 20, 0.1, "s", 1),
        _digits("pre_flow_s", "Fore gas", 0, 10, 0.1, "s", 1),
        _digits("post_flow_s", "Aft gas", 0, 60, 1, "s"),
        _digits("pulse_rate_hz", "Throb", 0.1, 300, 0.1, "Hz", 1),
        Control(
            setting="pulse_peak_share",
            label="Throb width",
            scale=Scale(points=((5, 0.05), (95, 0.95)), step=1, unit="%"),
        ),
        Control(
            setting="pulse_base_share",
            label="Throb floor",
            scale=Scale(points=((5, 0.05), (95, 0.95)), step=1, unit="%"),
        ),
        # Counted as the DC part, so rising digits mean less AC.
        Control(
            setting="mix_ac_share",
            label="Straight part",
            scale=Scale(points=((5, 0.95), (90, 0.10)), step=1, unit="%"),
        ),
        _digits("mix_cycle_s", "Blend length", 0.1, 2, 0.05, "s", 2),
        Control(
            setting="mix_dc_level",
            label="Straight level",
            scale=Scale(points=((30, 0.30), (100, 1.0)), step=1, unit="%"),
        ),
    ),
)

TERN = Machine(
    name="Tern 250",
    least_a=5,
    most_a=250,
    duty=Duty(amps=250, share=0.35),
    least_frequency_hz=50,
    most_frequency_hz=200,
    least_ep_share=0.15,
    most_ep_share=0.55,
    shapes=("square", "soft", "sine"),
    least_trim=-0.40,
    most_trim=0.20,
    can_mix=False,
    torch_amps=200,
    note="A signed scale where plus cleans more; the two halves see-saw around the amps shown.",
    controls=(
        Control(
            setting="amps_set",
            label="Middle amps",
            basis="both_halves",
            scale=Scale(points=((4, 4), (275, 275)), step=1, unit="A"),
        ),
        Control(
            setting="ep_share",
            label="Scrub",
            scale=Scale(points=((-8, 0.15), (8, 0.55)), step=0.5, decimals=1, signed=True),
        ),
        # See-saw s: plus half (1 + s), minus half (1 − s), so trim = 2s/(1 − s).
        Control(
            setting="ep_trim",
            label="See-saw",
            scale=Scale(
                points=tuple((float(s), 2 * s / 100 / (1 - s / 100)) for s in (-25, -18, -12, -6, 0, 4, 9)),
                step=1,
                unit="%",
                signed=True,
            ),
        ),
        _digits("frequency_hz", "Speed of AC", 50, 200, 5, "Hz"),
        _waves("Outline", square="Plain", soft="Smoothed", sine="Swell"),
        _digits("up_slope_s", "Warm-in", 0, 5, 0.5, "s", 1),
        _digits("down_slope_s", "Fade", 0, 10, 0.5, "s", 1),
        _digits("post_flow_s", "Cover after", 1, 40, 1, "s"),
        _digits("pulse_rate_hz", "Tick", 0.5, 20, 0.5, "Hz", 1),
        Control(
            setting="pulse_peak_share",
            label="Tick on",
            scale=Scale(points=((20, 0.2), (80, 0.8)), step=5, unit="%"),
        ),
        Control(
            setting="pulse_base_share",
            label="Tick rest",
            scale=Scale(points=((10, 0.1), (90, 0.9)), step=5, unit="%"),
        ),
    ),
)

MACHINES: tuple[Machine, ...] = (CURLEW, HERON, DUNLIN, PLOVER, CORMORANT, GANNET, TERN)
