"""Run the command line with ``python -m cryonome``."""

from .cli import main

main()
