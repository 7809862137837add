"""What `make bench` runs."""
