"""Processes that hold live shapes and can be killed, and the engine that hands them work."""
