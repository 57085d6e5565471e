"""What `make bench` runs: speed as ratios to a floor measured in the same run."""
