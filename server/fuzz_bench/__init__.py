"""Requests nobody would send, made from the API's own description (`./folio bench fuzz`)."""
