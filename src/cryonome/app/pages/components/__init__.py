"""The page *Components*."""
