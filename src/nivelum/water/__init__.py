"""Where will the rain stand?"""
