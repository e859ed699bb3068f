"""What makes height.

One file per landform or process; each registers its model and its function.
"""
