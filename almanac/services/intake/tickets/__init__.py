"""Lists of tickets: free text to what happened to which part."""
