"""What stands on the shelf at Tidewrack Works."""

from __future__ import annotations

from anvilsong.core.torch.kit import Cylinder, Kit, StockedTungsten, Torch


def _tungstens(*stock: tuple[str, float]) -> tuple[StockedTungsten, ...]:
    return tuple(StockedTungsten(class_=name, diameter_mm=diameter) for name, diameter in stock)


BENCH = Kit(
    name="Bench kit",
    tungstens=_tungstens(
        ("WLa 20", 1.6),
        ("WLa 20", 2.4),
        ("WLa 20", 3.2),
        ("WLa 20", 4.0),
        ("WLa 20", 4.8),
        ("WCe 20", 1.0),
        ("WZr 8", 2.4),
    ),
    cups=(4, 5, 6, 7, 8),
    lens_cups=(6, 7, 8, 10, 12, 14),
    rods_mm=(1.6, 2.4, 3.2),
    fillers=("4043", "4047", "5356", "5183", "1100"),
    torches=(
        Torch(name="Water torch, long hose", cooling="water", rated_a=260, rated_duty=1.0, hose_m=8),
        Torch(name="Small air torch", cooling="air", rated_a=125, rated_duty=0.35, hose_m=4),
    ),
    cylinders=(
        Cylinder(name="Argon, large", volume_l=50, full_bar=200, price=110),
        Cylinder(name="Argon-helium 30", volume_l=20, full_bar=200, helium_share=0.30, price=140),
    ),
    cooler="auto",
    chill_blocks=4,
    rod_price_kg=24,
    currency="cr",
)

# Van kit: two tungstens and one small bottle.
VAN = Kit(
    name="Van kit",
    tungstens=_tungstens(("WLa 15", 1.6), ("WLa 15", 2.4)),
    cups=(5, 6, 7),
    lens_cups=(),
    rods_mm=(1.6, 2.4),
    fillers=("4043", "5356"),
    torches=(Torch(name="Small air torch", cooling="air", rated_a=125, rated_duty=0.35, hose_m=4),),
    cylinders=(Cylinder(name="Argon, van", volume_l=10, full_bar=150, price=45),),
    cooler="none",
    rod_price_kg=24,
    currency="cr",
)

KITS: tuple[Kit, ...] = (BENCH, VAN)
# Cylinder, bar, what was noted.
GAUGES: tuple[tuple[str, float, str], ...] = (
    ("Argon, large", 196, "New bottle."),
    ("Argon, large", 141, "After the raft rails."),
    ("Argon, large", 88, ""),
    ("Argon, van", 62, "Half a day left?"),
)
