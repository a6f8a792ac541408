"""Who is it, of which crew, and what may they do?"""
