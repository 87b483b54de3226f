"""The page *Fluid*."""
