"""The page *Cuts*."""
