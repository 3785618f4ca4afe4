"""How other devices of the shop get in: the passphrase, visits, tickets for a phone, how often somebody may
guess, the addresses of this machine, and a certificate of its own.
"""

from __future__ import annotations

from anvilsong.web.door.guesses import Guesses
from anvilsong.web.door.keeper import Keeper
from anvilsong.web.door.passphrase import Lock, fresh_passphrase, lock_of, set_passphrase
from anvilsong.web.door.visits import Visit, Visits, fresh

__all__ = [
    "Guesses",
    "Keeper",
    "Lock",
    "Visit",
    "Visits",
    "fresh",
    "fresh_passphrase",
    "lock_of",
    "set_passphrase",
]
