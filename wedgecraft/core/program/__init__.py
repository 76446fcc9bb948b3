"""Word-address programs: read, tried on a stand-in for the control, put in order for a setup."""
