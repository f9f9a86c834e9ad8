"""What is written down on site and what is issued, as it is stored; merchant and instrument asked for it."""
