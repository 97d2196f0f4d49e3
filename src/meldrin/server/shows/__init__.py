"""Show the class: comparisons for a lesson."""
