"""The frame around the stations: strip on top, rail, playhead bar, sheets, and the business with files."""
