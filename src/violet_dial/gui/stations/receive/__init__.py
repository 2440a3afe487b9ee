"""The Receive station: described, looked over, tried, and made sure of before opening."""
