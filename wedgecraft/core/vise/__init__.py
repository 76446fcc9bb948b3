"""A part in a vise: how deep it must be held, for any part between parallel jaws and for the planned op in a vise of the shop."""
