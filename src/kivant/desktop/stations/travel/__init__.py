"""The chain of stages from rotor to tool."""
