"""What holds a stage, and who has signed it?"""
