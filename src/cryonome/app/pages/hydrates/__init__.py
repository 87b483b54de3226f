"""The page *Hydrates*."""
