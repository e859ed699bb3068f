"""Pictures in processes of their own: stills and clips as durable jobs, proofs at once."""
