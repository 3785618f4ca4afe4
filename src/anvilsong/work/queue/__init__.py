"""Heavy work through a queue, for a logbook on a PostgreSQL server: asked for by any server process, done by
workers on any machine (``anvilsong work``).
"""

from anvilsong.work.queue.asking import Queue, QueuedTask
from anvilsong.work.queue.rows import Works, prepare

__all__ = ["Queue", "QueuedTask", "Works", "prepare"]
