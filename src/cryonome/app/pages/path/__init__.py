"""The page *Path*."""
