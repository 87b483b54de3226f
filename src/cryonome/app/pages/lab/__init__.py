"""The page *Lab*."""
