"""The server: one app per stage over the core.  Views stay thin: load, ask sight, call core, store, answer."""
