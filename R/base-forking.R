# May work be shared with processes that are copies of this one? Not where processx is loaded: it and parallel each take the signal of a child that
# ended, so that R would end with a complaint about children that it cannot terminate.
may_fork <- function() .Platform$OS.type == "unix" && !isNamespaceLoaded("processx")
