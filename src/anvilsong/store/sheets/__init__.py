"""Tables for other programs: coupons, runs, recipes and memories as CSV and as a spreadsheet, and coupons and
runs read back from either, looked at before they are taken.
"""

from __future__ import annotations

from anvilsong.store.sheets.columns import KINDS, Kind
from anvilsong.store.sheets.files import Sheet, read_sheet, write_sheet
from anvilsong.store.sheets.taking import Looked, look_at, take

__all__ = ["KINDS", "Kind", "Looked", "Sheet", "look_at", "read_sheet", "take", "write_sheet"]
