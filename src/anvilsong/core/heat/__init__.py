"""Heat: moving-source solutions, pedal and machine limits."""
