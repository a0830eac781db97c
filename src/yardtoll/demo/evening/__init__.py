"""The first evening: a practice bench with the usual mistakes in it, and what each would cost."""
