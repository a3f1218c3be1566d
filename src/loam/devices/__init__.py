"""Drivers of outside devices: they speak on a port and know nothing of trials."""
