"""From a design to pieces a shop can cut: holes, plates, jaws, their drawings, hours and money."""
