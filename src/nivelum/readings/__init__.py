"""What should the rod read here, what does it read, is it good?"""
