"""The page *Map*."""
