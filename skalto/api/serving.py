"""Starting it all: workers and web process; ending both."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import uvicorn

from skalto.api.app import create_app
from skalto.core.errors import InputError
from skalto.settings import Settings


def _with(data: Path | None, port: int | None) -> Settings:
    found = Settings()
    return found.model_copy(update={"data": data or found.data, "port": port or found.port})


def serve(data: Path | None, port: int | None, demo: bool) -> None:
    """Run until Ctrl-C. :raises InputError: when the port is taken."""
    settings = _with(data, port)
    settings.data.mkdir(parents=True, exist_ok=True)
    app = create_app(settings)
    studio = app.state.studio
    studio.queue.reset()
    if demo:
        from skalto.demo.job import ensure_demo

        ensure_demo(studio)
    command = [sys.executable, "-m", "skalto.jobs.consumer", str(settings.data), str(settings.workers), settings.redis]
    workers = subprocess.Popen(command, start_new_session=True)
    config = uvicorn.Config(app, host=settings.host, port=settings.port, log_level="warning")
    server = uvicorn.Server(config)
    try:
        sock = config.bind_socket()
        # whoever asks from now on waits for the answer, and is not turned away
        sock.listen()
        print(f"Skalto is at http://{settings.host}:{settings.port} (Ctrl-C ends it)", flush=True)
        server.run(sockets=[sock])
    except SystemExit:
        raise InputError(f"Port {settings.port} is taken: end what uses it, or choose another with --port.") from None
    except KeyboardInterrupt:
        pass
    finally:
        workers.terminate()
        try:
            workers.wait(5)
        except subprocess.TimeoutExpired:
            workers.kill()
