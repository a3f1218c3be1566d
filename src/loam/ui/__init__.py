"""The only folder that knows Qt: window, views, widgets, theme."""
