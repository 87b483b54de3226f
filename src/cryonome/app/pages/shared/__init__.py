"""What pages share: their registry, the page of a question, and pictures of maps and panels."""
