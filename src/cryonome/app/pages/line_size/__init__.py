"""The page *Line size*."""
