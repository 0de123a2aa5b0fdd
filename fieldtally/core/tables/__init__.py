"""Tables: text that people bring, read strictly, with the line of whatever is wrong."""
