"""What a cable may carry where it lies: spans, bundles, overload protection."""
