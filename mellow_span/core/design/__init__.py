"""A whole job worked out: checked, sized, cured, stressed and priced."""
