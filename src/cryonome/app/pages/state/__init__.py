"""The page *State*."""
