"""The ground floor of all that lies on disk: whole writes, kinds of files, text safe to show. No formats here."""
