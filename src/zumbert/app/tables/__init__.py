"""The tables of structures, pipes and the library."""
