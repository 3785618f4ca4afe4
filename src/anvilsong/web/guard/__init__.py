"""What stands between the network and the pages: names and origins, the passphrase, sizes, patience, faults,
headers.

Each guard is a plain ASGI application around the next; ``Guards`` puts them in order.
"""

from __future__ import annotations

from anvilsong.config import Config
from anvilsong.web.asgi import App, Receive, Scope, Send
from anvilsong.web.door import Keeper
from anvilsong.web.guard.bodies import BodyGuard
from anvilsong.web.guard.door import DoorGuard
from anvilsong.web.guard.faults import FaultGuard
from anvilsong.web.guard.headers import HeaderGuard
from anvilsong.web.guard.origins import OriginGuard
from anvilsong.web.guard.patience import PatienceGuard
from anvilsong.web.guard.small import SmallGuard


class Guards:
    """The application inside its guards, outermost first: headers, compressing, origins, the door,
    bodies, patience, faults.
    """

    def __init__(self, app: App, config: Config, keeper: Keeper | None) -> None:
        inside = PatienceGuard(FaultGuard(app), config.answer_within_s)
        door = DoorGuard(BodyGuard(inside, config.whole_request_within_s), keeper)
        origins = OriginGuard(door, config)
        self.app = HeaderGuard(SmallGuard(origins))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self.app(scope, receive, send)
