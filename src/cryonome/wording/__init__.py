"""Questions as sentences with blanks, sentences as questions, and answers in words."""
