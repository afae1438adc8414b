"""The bars round the drawings: head, stages, head of the long section, foot."""
