"""Do the pegs stand where the plan has them, and where do services lie?"""
