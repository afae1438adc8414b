"""Flow of water in sections of any shape: no project in sight."""
