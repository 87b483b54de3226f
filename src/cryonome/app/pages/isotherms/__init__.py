"""The page *Isotherms*."""
