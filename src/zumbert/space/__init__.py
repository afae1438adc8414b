"""The project seen in space: an eye, the parts that it sees, and a pen that inks them with
OpenGL, without a window.
"""
