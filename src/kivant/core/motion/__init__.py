"""From blocks to step instants: ramps, coordination, step trains, routines and plans."""
