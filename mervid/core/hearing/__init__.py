"""From samples to beats: what can be heard at each moment, and which instants a listener would tap."""
