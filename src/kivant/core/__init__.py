"""What is true about motors and motion: pure computation, no Qt, no files, no clock, no network."""
