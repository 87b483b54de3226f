"""The page *Vapour pressure*."""
