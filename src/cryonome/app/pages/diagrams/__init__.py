"""The page *Diagrams*."""
