"""How the chosen axis gets up to speed and down again."""
