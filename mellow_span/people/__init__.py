"""People in front of the door and behind it: invitations, signed-in devices, wrong passwords, second factor, what happened, links for clients."""
