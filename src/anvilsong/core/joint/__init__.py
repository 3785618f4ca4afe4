"""Joints: their table, what each kind makes of a job, and their outlines."""

from anvilsong.core.joint.layers import filler_layer
from anvilsong.core.joint.outline import JointShape, joint_shape
from anvilsong.core.joint.pools import SQUARE_BUTT_LIMIT_MM, pool_through_mm, pool_wet_mm
from anvilsong.core.joint.sections import fillet_mm2
from anvilsong.core.joint.table import (
    Joint,
    JointKind,
    find_joint,
    handbook_argon_l_min,
    handbook_band_a,
    joints,
    position_factor,
    published,
    shop_rule_a,
    usual_travel_mm_s,
)
from anvilsong.core.joint.weld import (
    LARGEST_ONE_PASS_LEG_MM,
    POOL_PER_LEG,
    ROOT_FACE_MM,
    Fillet,
    Weld,
    WeldSection,
    groove_face_mm,
    weld_of,
)

__all__ = [
    "LARGEST_ONE_PASS_LEG_MM",
    "POOL_PER_LEG",
    "ROOT_FACE_MM",
    "SQUARE_BUTT_LIMIT_MM",
    "Fillet",
    "Joint",
    "JointKind",
    "JointShape",
    "Weld",
    "WeldSection",
    "filler_layer",
    "fillet_mm2",
    "find_joint",
    "groove_face_mm",
    "handbook_argon_l_min",
    "handbook_band_a",
    "joint_shape",
    "joints",
    "pool_through_mm",
    "pool_wet_mm",
    "position_factor",
    "published",
    "shop_rule_a",
    "usual_travel_mm_s",
    "weld_of",
]
