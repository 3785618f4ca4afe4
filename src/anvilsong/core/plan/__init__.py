"""The planner and the consequences of any settings."""
