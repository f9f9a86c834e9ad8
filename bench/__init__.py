"""The speed figures of the product on this machine: ./run bench."""
