"""What is looked for, one file each."""
