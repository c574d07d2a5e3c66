"""The web application: a window on documents. No geometry and no rules of the job here."""
