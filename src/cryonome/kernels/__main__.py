"""``python -m cryonome.kernels``: compile what is missing, and say how far that is."""

from __future__ import annotations

import sys
import time

from .compiling import compile_all, missing

COMPILING = "Compiling the solvers for this processor, once"


def main() -> None:
    """Compile the kernels of this processor."""
    count, start = len(missing()), time.perf_counter()
    if not count:
        return

    def tell(done: int, whole: int) -> None:
        # A line that is overwritten where somebody looks on, else one at every fourth.
        if sys.stderr.isatty():
            sys.stderr.write(f"\r{COMPILING}: {done} of {whole} ...")
        elif done % max(1, whole // 4) == 0 and done < whole:
            sys.stderr.write(f"{COMPILING}: {done} of {whole} ...\n")
        sys.stderr.flush()

    compile_all(tell)
    sys.stderr.write(
        f"{chr(13) if sys.stderr.isatty() else ''}{COMPILING}: done in {time.perf_counter() - start:.0f} s.\n"
    )


if __name__ == "__main__":
    main()
