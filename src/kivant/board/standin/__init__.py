"""The stand-in: a board in software that speaks the protocol, and a server that offers it on a port."""
