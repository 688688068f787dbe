"""Questions and their answers: what is asked, where it is kept, who reckons it and when. No interface, no file."""
