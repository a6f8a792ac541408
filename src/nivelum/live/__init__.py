"""What have others done meanwhile?"""
