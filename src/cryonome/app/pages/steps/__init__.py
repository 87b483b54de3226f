"""The page *Steps*."""
