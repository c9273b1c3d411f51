"""What is sent out, made in processes of its own so that everybody else is answered meanwhile."""
