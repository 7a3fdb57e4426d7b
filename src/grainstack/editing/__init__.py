"""A page on this machine where a chart is seen while it is made: every change is one of the command's options."""
