"""The JSON API that the pages use, by topic."""

from supplecast.web.api import documents, editing, files, history, jobs, looking, resins, sketching
from supplecast.web.routing import api

__all__ = ["api", "documents", "editing", "files", "history", "jobs", "looking", "resins", "sketching"]
