"""How the network that reads labels was made: its data recipe and its training. Not part of the product."""
