"""Takes the contents of files into a project, as chosen."""
