"""What leaves the program as a report: its parts, its pictures, and pages of HTML. Needs no window."""
