"""What is on a job’s record, and who may come by it?"""
