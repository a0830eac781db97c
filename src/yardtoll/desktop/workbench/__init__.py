"""What every view works with: the open yard with undo, results, jobs, and the live runs."""
