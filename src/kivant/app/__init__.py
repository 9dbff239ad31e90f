"""What a user is doing, without Qt: the open machine, the newest plan, a run, an export."""
