"""The stages: one folder and one entry each."""
