"""What travels as JSON: the bodies and answers of the API, by what they are about."""
