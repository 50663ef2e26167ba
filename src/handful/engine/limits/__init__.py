"""What can limit where a layer shows or a step acts: one file for each limit."""
