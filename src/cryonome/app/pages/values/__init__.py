"""The page *Values*."""
