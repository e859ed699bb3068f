"""Every kind of step, one file each."""
