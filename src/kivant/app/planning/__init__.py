"""What is computed of the open machine, off the interface thread: findings, the plan, trial moves."""
