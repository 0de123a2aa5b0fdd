"""What people say of a trial, in their own words, read into the parts of a plan."""
