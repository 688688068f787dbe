"""Run all benchmarks, or those named: python -m benchmarks hotend desk. Turns take four minutes, kills half
an hour: only if named."""

from __future__ import annotations

import sys
from importlib import import_module

NAMES = ("hotend", "time", "causes", "runs", "bed", "chamber", "power", "build", "desk")
LONG = ("turns", "kills")


def main() -> int:
    for name in sys.argv[1:] or NAMES:
        if name not in NAMES + LONG:
            print(f"No benchmark is called {name}. There are: {', '.join(NAMES + LONG)}.", file=sys.stderr)
            return 2
        print(f"\n{name}")
        for line in import_module(f"benchmarks.{name}").run():
            print(f"  {line}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
