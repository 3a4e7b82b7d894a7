"""What an exam hall may throw at it, against a fresh server of its own (`./folio bench attack`)."""
