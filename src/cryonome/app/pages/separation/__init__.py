"""The page *Separation*."""
