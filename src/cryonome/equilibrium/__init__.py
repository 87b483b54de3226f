"""Phase equilibrium: stability, flash, saturation, envelope, critical points."""
