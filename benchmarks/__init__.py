"""Speed claims, each measured beside what it is compared with."""
