"""Run the benchmarks that are named, or all. With --small each does little, which only shows that it runs."""

from __future__ import annotations

import importlib
import os
import sys

from bench.size import VARIABLE

NAMES = (
    "beginning",
    "waiting",
    "reading",
    "view",
    "hiding",
    "writing",
    "drawing",
    "desk",
    "issuing",
    "solids",
    "cutting",
    "sheet_metal",
    "releasing",
    "registers",
)

if __name__ == "__main__":
    named = [name for name in sys.argv[1:] if name != "--small"]
    if "--small" in sys.argv:
        os.environ[VARIABLE] = "1"
    for name in named or NAMES:
        importlib.import_module(f"bench.{name}").run()
