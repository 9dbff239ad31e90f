"""From rotor to tool: stages, exact conversion, and how far each shaft has turned."""
