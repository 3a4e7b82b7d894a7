"""What happens to pages that apps above must hear of. Sent inside the transaction of what happened."""

from django.dispatch import Signal

# A page was taken in. Arguments: folio (its row is locked), window, now.
page_taken_in = Signal()

# The student changed the arrangement. Arguments: folio (its row is locked), before, after, now.
arranged = Signal()

# A file was opened and has further pages. Arguments: folio (its row is locked), first and pages (ids), now.
further_pages_found = Signal()

# A page can be seen as its recipe makes it. Arguments: page.
page_ready = Signal()
