"""Coupons as two jobs plan them: a butt by pedal, and a tee of a 6xxx alloy by torch switch."""

from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL
from anvilsong.core.model import Bench
from anvilsong.core.plan import make_plan
from anvilsong.core.practice.eye import CouponRun


def run_of(given):
    """The coupon that the plan of a job asks for."""
    job = read_job(given)
    return CouponRun(job, make_plan(job, IDEAL).settings, Bench(IDEAL, None, nominal()))


BUTT = run_of({"a": {"alloy": "5083", "thickness": 3}, "joint": "butt"})
TEE = run_of({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "tee", "control": "switch_4"})
