"""What even colours need: cores, strays, edges that are blends."""
