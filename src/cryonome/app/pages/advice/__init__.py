"""The page *Advice*."""
