"""Vapour pressures as standard tests measure them."""
