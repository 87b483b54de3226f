"""The page *Match*."""
