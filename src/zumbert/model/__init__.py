"""What is saved: records only."""
