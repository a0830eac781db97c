"""A run in progress, without a window: plan, session, end, outlook, readings by hand."""
