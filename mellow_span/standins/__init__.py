"""Small services that stand in for outside ones, on loopback: all they say is made up. They know nothing of the app, nor it of their insides."""
