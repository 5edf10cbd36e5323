"""The worker process: ``python -m skalto.jobs.consumer DATA WORKERS [REDIS]``. Ends when its parent does."""

from __future__ import annotations

import logging
import os
import signal
import sys
import threading
import time
from pathlib import Path

from huey.consumer import Consumer

from skalto.jobs.queue import Queue

TASKS = "skalto.services.tasks"
"""What workers' processes load at their start: the kernel takes seconds."""


def main() -> None:
    data, workers, redis = Path(sys.argv[1]), int(sys.argv[2]), (sys.argv[3] if len(sys.argv) > 3 else "")
    logging.basicConfig(level=logging.WARNING, format="%(message)s")
    queue = Queue(data, redis, preload=TASKS)
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        queue.close()
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
    consumer = Consumer(
        queue.huey, workers=workers, worker_type="thread", periodic=False, initial_delay=0.02, backoff=1.1, max_delay=0.1
    )

    def leave(*_: object) -> None:
        queue.close()
        os._exit(0)

    signal.signal(signal.SIGTERM, leave)
    queue.warm(workers)
    try:
        consumer.run()
    finally:
        queue.close()


if __name__ == "__main__":
    main()
