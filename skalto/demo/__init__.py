"""The demo job: *Ebba*, a tabletop relief-printing press of a community print workshop. All of it is made up."""
