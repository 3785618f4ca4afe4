"""Metal: alloys, fillers, the chemistry of the weld metal, joints and their sections, surfaces."""
