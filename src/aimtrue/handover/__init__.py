"""Handing a release over: put down in folders and on cards, or sent to a next program over HTTP."""
