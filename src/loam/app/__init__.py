"""What the application does, without a screen: session, history, commands, presenters."""
