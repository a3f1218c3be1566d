"""Small simulated stand-ins for outside devices, which ship with Loam."""
