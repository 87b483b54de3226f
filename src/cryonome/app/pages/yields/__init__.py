"""The page *Yields*."""
