"""The page *Other*."""
