"""One module for each verb, loaded when it is used: a small question is answered without loading the rest."""
