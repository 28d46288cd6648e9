"""From what a file holds to a scheme: sift it, check it, mend it, settle it into zones, and give an account of it."""
