"""``python -m cryonome.kernels``: compile what is missing, and say how far that is."""

from __future__ import annotations

import sys
import time

from .library import compile_all, missing


def main() -> None:
    """Compile the kernels of this processor."""
    count, start = len(missing()), time.perf_counter()
    if not count:
        return

    def tell(done: int, whole: int) -> None:
        sys.stderr.write(f"\rCompiling the solvers for this processor, once: {done} of {whole} ...")
        sys.stderr.flush()

    compile_all(tell)
    sys.stderr.write(f" done in {time.perf_counter() - start:.0f} s.\n")


if __name__ == "__main__":
    main()
