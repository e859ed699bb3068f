"""The web: it passes documents and products between the page, the core and the store, and decides
nothing.
"""
