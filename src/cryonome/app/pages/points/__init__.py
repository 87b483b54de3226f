"""The page *Points*."""
