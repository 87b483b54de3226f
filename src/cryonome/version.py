"""The version of the program: this is its one place, which the package, the wheel and the report read."""

VERSION = "0.23.0"
