"""What takes the contents of files into a project, as one chose."""
