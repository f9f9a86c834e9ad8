"""What loads draw: design current, diversity, the demand of boards."""
