"""The panel of the stage Trench: what is dug, its types, and how it is counted."""
