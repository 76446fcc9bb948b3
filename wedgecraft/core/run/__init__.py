"""What a cycle takes, how a job runs, and what it costs."""
