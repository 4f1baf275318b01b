"""What `bench/faults.py` runs: mutants of audio and imports, kills, full disks and damaged pages, each from a seed."""
