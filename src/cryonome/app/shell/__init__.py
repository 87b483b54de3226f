"""The window around the pages: trail, shelf, ledger, menus, the store of the document and what is live on screen."""
