"""The page *Lab tests*."""
