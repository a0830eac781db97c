"""A run while it goes, without a window: plan, session, end, outlook, readings by hand."""
