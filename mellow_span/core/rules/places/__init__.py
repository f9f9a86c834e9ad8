"""The intake, the boards, conduit and trunking."""
