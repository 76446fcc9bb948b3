"""The made-up shop: Saltmarsh Gauge Works. Every name and figure is invented."""
