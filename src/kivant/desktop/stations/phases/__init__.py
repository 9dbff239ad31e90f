"""How the chosen axis's coils are switched."""
