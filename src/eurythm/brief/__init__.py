"""What the computation is asked: shipped profiles, resolve with origins, readiness, edits."""
