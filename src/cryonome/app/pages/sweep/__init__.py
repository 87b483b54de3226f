"""The page *Sweep*."""
