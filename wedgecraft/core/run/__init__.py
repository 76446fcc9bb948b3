"""What a cycle takes."""
