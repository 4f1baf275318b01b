"""Everything that makes Mervid's ear: music rendered with its truth, and the network trained on it.

The product never imports this package; it ships the weights that `python -m training` writes.
"""
