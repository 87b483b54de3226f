"""Cryonome: petroleum fluids from lab data to answers."""

__version__ = "0.7.0"
