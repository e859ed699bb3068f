"""What is measured from height."""
