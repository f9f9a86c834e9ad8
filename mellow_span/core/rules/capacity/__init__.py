"""What a cable may carry where it lies: spans, routes, overload protection."""
