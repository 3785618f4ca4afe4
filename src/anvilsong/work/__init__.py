"""Heavy work in processes beside the server: what takes long or much memory, and can be ended."""

from anvilsong.work.rooms import (
    BOOK,
    PARTS,
    PICTURES,
    Ended,
    NoRoom,
    Room,
    Stopped,
    Task,
    close,
    result_of,
    submit,
)

__all__ = [
    "BOOK",
    "PARTS",
    "PICTURES",
    "Ended",
    "NoRoom",
    "Room",
    "Stopped",
    "Task",
    "close",
    "result_of",
    "submit",
]
