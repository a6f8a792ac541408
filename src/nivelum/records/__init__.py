"""What does the record say, and does it hold? The page, the PDF, the diary, backups."""
