"""The invented workshop, Tidewrack Works, built through the same functions the pages use."""
