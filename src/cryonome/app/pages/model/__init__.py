"""The page *Model*."""
