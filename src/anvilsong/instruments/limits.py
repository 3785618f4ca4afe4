"""How large what is sent may be, each once: forms, pages, readers and the guard of bodies ask here."""

from __future__ import annotations

OUTLINE_BYTES = 2_000_000
PICTURE_BYTES = 25_000_000
EXPORT_BYTES = 1_000_000_000
BACKUP_BYTES = 4_000_000_000
TRACE_BYTES = 64_000_000
MOST_SAMPLES, MOST_COLUMNS = 4_000_000, 24  # of a trace
SOUND_BYTES, MOST_SOUND_S, MOST_SOUND_SAMPLES = 64_000_000, 300.0, 16_000_000
FORM_BYTES = 1_000_000
SHEET_BYTES = 5_000_000
AROUND_BYTES = 100_000
"""What a form may carry around its file."""
LEAST_WIDE_MM, MOST_WIDE_MM = 10.0, 3000.0  # of a part that is drawn
