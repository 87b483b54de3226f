"""The kernels as they are written: compiled ahead by :mod:`..building`, never imported by what runs."""
