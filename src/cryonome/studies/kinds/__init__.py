"""The study kinds, one file each. A file registers its kind where it is imported; nothing else names it."""
