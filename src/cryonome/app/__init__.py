"""The window: everything with an interface; views only, no physics."""
