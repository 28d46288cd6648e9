"""gbXML: writing version 6.01, reading it and what came before."""
