"""What flows in a fault and whether it is cleared: loops, protective conductors, disconnection, additional protection."""
