"""The pages, a folder each; what several share is in ``shared``."""
