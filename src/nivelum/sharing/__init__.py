"""Who outside the crew may see it, or sign?"""
