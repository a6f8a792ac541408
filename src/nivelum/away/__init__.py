"""What can one do with no signal?"""
