"""What a metal does with heat over temperature: enthalpy, conductivity, melting.

A state of the plate is its enthalpy H, J/mm³ over 0 °C, so that melting is a stretch of H in which T hardly
rises. Conduction is in the integral of the conductivity (Kirchhoff), φ = ∫ k dT, W/mm, whose differences are
flows: ∂H/∂t = ∇²φ. Both are read from one table over H.

c(T) = 903 + 0.41·T J/(kg·K) up to 500 °C, then as at 500 °C; 1.18 kJ/(kg·K) when molten; latent heat 390
kJ/kg, spread evenly over the melting range. k(T) = k_hot·(1 + s·(T − 300)), with the slopes of the standard,
0.07/211 per K for the alloys that conduct well and 0.10/170 for the others, held at the solidus; molten metal
conducts 93 W/(m·K) at rest, and is stirred: 2.5 times that stands for it.

References
----------
EN 1999-1-2:2007, 3.3.2: specific heat and conductivity of aluminium alloys.
Mills K. C. (2002), Recommended values of thermophysical properties for selected commercial alloys: molten
aluminium.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from anvilsong.core.heat.plate import Array

LATENT_J_G, MOLTEN_J_G_K = 390.0, 1.18
MOLTEN_W_MM_K, STIRRED = 0.093, 2.5
COLDEST_C, HOTTEST_C = -60.0, 4000.0
MIDDLE_C = 300.0  # where k(T) is the one that the steady source uses
WELL_CONDUCTING_W_MM_K = 0.185
SLOPES_PER_K = (0.07 / 211, 0.10 / 170)  # of those that conduct well, of the others
PLACES = 4096


@dataclass(frozen=True)
class MetalHeat:
    """A metal: ρ g/mm³, conductivity near the pool W/(mm·K), melting range °C.

    ``simple``: constants, no latent heat, as the closed solutions have it; c is then ``c_j_g_k``.
    """

    density_g_mm3: float
    hot_w_mm_k: float
    solidus_c: float
    liquidus_c: float
    simple: bool = False
    c_j_g_k: float = 1.0

    @property
    def contour_c(self) -> float:
        """Middle of the melting range: what bounds the pool."""
        return (self.solidus_c + self.liquidus_c) / 2

    def specific_heat_j_g_k(self, t_c: Array) -> Array:
        """c(T), the latent heat as part of it within the melting range."""
        if self.simple:
            return np.full(np.shape(t_c), self.c_j_g_k)
        solid = 0.903 + 0.41e-3 * np.clip(t_c, COLDEST_C, 500.0)
        mush = LATENT_J_G / max(self.liquidus_c - self.solidus_c, 1.0)
        found = np.where(t_c > self.liquidus_c, MOLTEN_J_G_K, solid)
        melting = (t_c > self.solidus_c) & (t_c <= max(self.liquidus_c, self.solidus_c + 1.0))
        return np.asarray(np.where(melting, found + mush, found))

    def conductivity_w_mm_k(self, t_c: Array) -> Array:
        """k(T)."""
        if self.simple:
            return np.full(np.shape(t_c), self.hot_w_mm_k)
        slope = SLOPES_PER_K[self.hot_w_mm_k < WELL_CONDUCTING_W_MM_K]
        solid = self.hot_w_mm_k * (1 + slope * (np.minimum(t_c, self.solidus_c) - MIDDLE_C))
        span = max(self.liquidus_c - self.solidus_c, 1.0)
        molten = np.clip((t_c - self.solidus_c) / span, 0.0, 1.0)
        return np.asarray(solid + molten * (STIRRED * MOLTEN_W_MM_K - solid))

    @cached_property
    def table(self) -> HeatTable:
        """Temperature and φ over enthalpy."""
        return _table(self)

    @property
    def most_diffusive_mm2_s(self) -> float:
        """The largest k/(ρc) there is: what bounds an explicit step."""
        t = np.linspace(COLDEST_C, HOTTEST_C, 2000)
        rate = self.conductivity_w_mm_k(t) / (self.density_g_mm3 * self.specific_heat_j_g_k(t))
        return float(rate.max())


@dataclass(frozen=True)
class HeatTable:
    """T, °C, and φ, W/mm, at ``PLACES`` even steps of H from ``least_j_mm3``, ``step_j_mm3`` apart."""

    least_j_mm3: float
    step_j_mm3: float
    temperature_c: Array
    flow_w_mm: Array
    enthalpies: Array
    temperatures: Array

    def enthalpy(self, t_c: float | Array) -> Array:
        """H, J/mm³, of a temperature."""
        return np.asarray(np.interp(t_c, self.temperatures, self.enthalpies))

    def temperature(self, h_j_mm3: float | Array) -> Array:
        """T, °C, of an enthalpy."""
        return np.asarray(np.interp(h_j_mm3, self.enthalpies, self.temperatures))


@lru_cache(maxsize=64)
def _table(metal: MetalHeat) -> HeatTable:
    t = np.unique(
        np.concatenate(
            (
                np.linspace(COLDEST_C, HOTTEST_C, 8001),
                np.linspace(metal.solidus_c, max(metal.liquidus_c, metal.solidus_c + 1.0), 400),
            )
        )
    )
    middle, width = (t[1:] + t[:-1]) / 2, np.diff(t)
    h = np.append(0.0, np.cumsum(metal.density_g_mm3 * metal.specific_heat_j_g_k(middle) * width))
    flow = np.append(0.0, np.cumsum(metal.conductivity_w_mm_k(middle) * width))
    h -= np.interp(0.0, t, h)
    even = np.linspace(h[0], h[-1], PLACES)
    return HeatTable(
        least_j_mm3=float(even[0]),
        step_j_mm3=float(even[1] - even[0]),
        temperature_c=np.interp(even, h, t),
        flow_w_mm=np.interp(even, h, flow),
        enthalpies=h,
        temperatures=t,
    )
