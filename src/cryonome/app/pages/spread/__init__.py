"""The page *Spread*."""
