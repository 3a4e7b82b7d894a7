"""Rules and computation of Inked Folio. No Django, no web code: plain typed values in and out."""
