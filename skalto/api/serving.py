"""Starting it all: workers and web process; ending both."""

from __future__ import annotations

import logging
import os
import secrets
import socket
import subprocess
import sys
import threading
import time
import uuid
from contextlib import suppress
from pathlib import Path

import uvicorn

from skalto.api.app import create_app
from skalto.api.guarding import is_loopback
from skalto.core.errors import InputError
from skalto.jobs.child import sweep
from skalto.jobs.consumer import Wanted
from skalto.jobs.queue import STARTING, Queue
from skalto.services.running.locking import lock
from skalto.services.use_cases.studio import Studio
from skalto.settings import Settings
from skalto.store.jobs import list_jobs
from skalto.store.rights import keep_private

_SLOW_START = 10.0
_log = logging.getLogger(__name__)


def _with(data: Path | None, port: int | None, host: str | None) -> Settings:
    found = Settings()
    return found.model_copy(update={"data": data or found.data, "port": port or found.port, "host": host or found.host})


def with_token(settings: Settings) -> Settings:
    """The settings with a token, where more than this machine itself is served.

    :raises InputError: when one was given that could be guessed.
    """
    if settings.token and len(settings.token) < 12:
        raise InputError("SKALTO_TOKEN is too short: take twelve letters or more, or unset it to have one made.")
    if settings.token or (is_loopback(settings.host) and not settings.allowed_hosts):
        return settings
    made = secrets.token_urlsafe(18)
    print(f"Reached from other machines, Skalto needs a token. This one holds until it ends: {made}", flush=True)
    return settings.model_copy(update={"token": made})


class LocalWorkers:
    """The worker process of this machine: started, watched, and started again when it dies or hangs."""

    def __init__(self, settings: Settings, queue: Queue) -> None:
        self._settings, self._queue = settings, queue
        self._ending = threading.Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._name = ""
        self._thread = threading.Thread(target=self._watch, daemon=True)

    def start(self) -> None:
        self._queue.absent = STARTING
        self._begin()
        self._thread.start()

    def _begin(self) -> None:
        self._name = f"here-{uuid.uuid4().hex[:12]}"
        wanted = Wanted(
            data=self._settings.data, redis=self._settings.redis, workers=self._settings.workers, name=self._name,
            limits=self._settings.limits, lost=self._settings.lost_seconds, parent=os.getpid(),
        )  # fmt: skip
        command = [sys.executable, "-m", "skalto.jobs.consumer"]
        environment = os.environ | {"SKALTO_WORKER": wanted.model_dump_json()}
        self._process = subprocess.Popen(command, start_new_session=True, env=environment)

    def _watch(self) -> None:
        wait, begun, seen = 0.5, time.monotonic(), time.monotonic()
        while not self._ending.wait(0.3):
            process = self._process
            assert process is not None
            now = time.monotonic()
            if self._name in self._queue.workers():
                seen = now
            if process.poll() is None and now - seen < self._settings.lost_seconds + _SLOW_START:
                continue
            print("skalto: the workers stopped and are started again", file=sys.stderr, flush=True)
            _kill(process)
            with suppress(Exception):
                self._queue.lost(self._name)
            # one that dies at once is not started as fast as it dies
            wait = 0.5 if now - begun > 60 else min(30.0, wait * 2)
            if self._ending.wait(wait):
                return
            self._begin()
            begun = seen = time.monotonic()

    def stop(self) -> None:
        self._ending.set()
        self._thread.join(5)
        if self._process is not None:
            self._process.terminate()
            try:
                self._process.wait(5)
            except subprocess.TimeoutExpired:
                _kill(self._process)


def _kill(process: subprocess.Popen[bytes]) -> None:
    with suppress(ProcessLookupError):
        os.killpg(process.pid, 9)
    process.wait()


def serve(data: Path | None, port: int | None, demo: bool, host: str | None = None) -> None:
    """Run until Ctrl-C.

    :raises InputError: when the port is taken, the data folder is in use or cannot be written, or Redis does not answer.
    """
    settings = with_token(_with(data, port, host))
    where = f"http://{settings.host}:{settings.port}"
    keep_private(settings.data)
    held = lock(settings.data, where)
    try:
        _serve(settings, where, demo)
    finally:
        held.close()


def _make_demo(studio: Studio) -> None:
    """The demo jobs, made by the workers while the page can be used already."""
    # with what it takes to lay out sheets, which nobody waits for who only wants the server up
    from skalto.demo.hands import Hands
    from skalto.demo.job import make_demo

    def told(text: str) -> None:
        studio.preparing = text
        if text:
            print(f"Making the demo jobs: {text[0].lower()}{text[1:]} …", flush=True)

    try:
        told(studio.preparing)
        make_demo(studio, Hands(studio.queue), told)
    except Exception:
        _log.exception("the demo jobs could not be made")
    finally:
        told("")


def _serve(settings: Settings, where: str, demo: bool) -> None:
    sweep()
    app = create_app(settings)
    studio = app.state.use_cases.of(Studio)
    studio.queue.reset()
    studio.tidy()
    studio.announce()
    if demo and not list_jobs():
        # said before anybody can ask
        studio.preparing = "Building the press and drawing the rooms"
    workers = LocalWorkers(settings, studio.queue)
    if settings.workers:
        workers.start()
    config = uvicorn.Config(
        app, host=settings.host, port=settings.port, log_level="warning", server_header=False,
        proxy_headers=bool(settings.proxies), forwarded_allow_ips=settings.proxies or None, timeout_graceful_shutdown=3,
    )  # fmt: skip
    server = uvicorn.Server(config)
    try:
        sock = config.bind_socket()
        # an answer goes out in two pieces, and the second must not wait until the first is acknowledged: 40 ms each
        sock.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        # whoever asks from now on waits for the answer, and is not turned away
        sock.listen()
        print(f"Skalto is at {where} (Ctrl-C ends it)", flush=True)
        if studio.preparing:
            threading.Thread(target=_make_demo, args=(studio,), daemon=True).start()
        server.run(sockets=[sock])
    except SystemExit:
        raise InputError(f"Port {settings.port} is taken: end what uses it, or choose another with --port.") from None
    except KeyboardInterrupt:
        pass
    finally:
        if settings.workers:
            workers.stop()
