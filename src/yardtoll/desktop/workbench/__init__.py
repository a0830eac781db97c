"""What every view stands on: the open yard with undo, results, jobs, and the live runs."""
