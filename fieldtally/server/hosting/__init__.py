"""Where and how it runs: its settings, who asks through which proxy, its health, its log and its measurements."""
