"""How fast the application is on this machine. Figures are printed; nothing is asserted."""
