"""Speed as ratios against a peer or a floor, measured in one run."""
