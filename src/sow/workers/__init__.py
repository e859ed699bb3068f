"""Workers by Dask: those of this machine, or those of others that join."""
