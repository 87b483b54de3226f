"""The page *Table*."""
