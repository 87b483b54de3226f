"""Reports on paper: pages laid out and painted by Qt, as PDF, on a printer, and in the window."""
