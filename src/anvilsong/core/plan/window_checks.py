"""Windows held against every limit: a sound value draws no stop, a best one no stop and no caution, the other
settings as they are.
"""

from __future__ import annotations

from anvilsong.core.checks import outcome
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import Machine
from anvilsong.core.model import Situation
from anvilsong.core.plan.bands import MACHINE_ENDS, Band, Found, Nothing
from anvilsong.core.registry import foot_within
from anvilsong.core.settings import Settings

CHECKED = ("amps_run", "amps_set", "ep_share", "ep_trim", "frequency_hz")
HALVINGS = 5
# What gives at an end, in a word, by the warning that comes there.
GIVES = {
    "no_root": "no root",
    "short_root": "no root",
    "melt_through": "sags",
    "melt_through_near": "sags",
    "cold": "cold",
    "hot": "wide",
    "oxide_at_toes": "specks",
    "thin_border": "specks",
    "wide_border": "wide border",
    "border_for_look": "wide border",
    "tungsten_hot": "tip balls",
    "tungsten_melts": "tip balls",
    "pedal_coarse": "pedal coarse",
    "pedal_no_reserve": "no reserve",
    "torch_rating": "torch hot",
    "duty": "duty",
    "half_too_short": "half too short",
    "chill": "rod chills",
    "pulse_base_low": "base too low",
    "pulse_beats": "pulse beats",
}


class Checked:
    """One setting of a job moved along its window, and what it draws there."""

    def __init__(
        self, at: Situation, settings: Settings, machine: Machine, c: Coefficients, key: str
    ) -> None:
        self.job, self.settings, self.machine, self.c, self.key = at.job_as_asked, settings, machine, c, key
        self.known: dict[float, tuple[tuple[str, str], ...]] = {}

    def codes(self, value: float) -> tuple[tuple[str, str], ...]:
        """The stops and cautions there, by name and level."""
        if value not in self.known:
            found = outcome(self.job, self._moved(value), self.machine, c=self.c).warnings
            self.known[value] = tuple((each.code, each.level) for each in found if each.level != "note")
        return self.known[value]

    def _moved(self, value: float) -> Settings:
        """The settings with the value, which lies in a band of allowed ones and needs no checking again."""
        made = {self.key: value}
        if self.key == "amps_run":
            made["amps_set"] = max(value, self.settings.amps_set) if self.job.control == "pedal" else value
        return foot_within(self.settings.model_copy(update=made), self.job.control)

    def cut(self, band: Found, value: float, good: float, levels: tuple[str, ...], planned: bool) -> Found:
        """The band, each end drawn in until nothing of these levels comes that does not stand at a ``good``
        value, nor at the planned one.
        """
        if isinstance(band, Nothing) or not band.low <= good <= band.high:
            return band
        stands = {*self.codes(good), *(self.codes(value) if planned else ())}

        def brings(at: float) -> str:
            new = [code for code, level in self.codes(at) if level in levels and (code, level) not in stands]
            return new[0] if new else ""

        ends = {}
        for end, word in ((band.low, band.below), (band.high, band.above)):
            code = brings(end)
            if not code:
                ends[end] = (end, word)
                continue
            whole, broken = good, end
            for _ in range(HALVINGS):
                middle = (whole + broken) / 2
                found = brings(middle)
                whole, broken, code = (whole, middle, found) if found else (middle, broken, code)
            ends[end] = (whole, GIVES.get(code, MACHINE_ENDS))
        (low, below), (high, above) = ends[band.low], ends[band.high]
        return Band(low, high, below, above)
