"""What runs: the web server, the process for searches, where requests go, and the commands of whoever looks after it."""
