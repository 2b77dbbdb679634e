# Shards asked at the same time, each by a process of its own that holds a connection to it. A connection cannot be handed to another process, so
# the list of shards is one of functions that connect.

# Connections and processes that are open, by the name of who asked for them. They are held here, so that they outlive it and can be closed.
opened_by <- new.env(parent = emptyenv())

# What functions connected, and a process for each, started when first asked; all of it ends when nothing needs it any more.
new_workers <- function(connect) {
  workers <- new.env(parent = emptyenv())
  workers$connect <- connect
  workers$name <- basename(tempfile("workers-"))
  assign(workers$name, new.env(parent = emptyenv()), opened_by)
  reg.finalizer(workers, end_workers, onexit = TRUE)
  own <- opened_by[[workers$name]]
  tryCatch(for (one in connect) own$connections <- c(own$connections, list(database_does(one()))), error = function(e) {
    end_workers(workers)
    stop(e)
  })
  workers
}

end_workers <- function(workers) {
  stop_workers(workers)
  for (connection in opened_by[[workers$name]]$connections) {
    if (methods::is(connection, "DBIConnection") && DBI::dbIsValid(connection)) try(DBI::dbDisconnect(connection), silent = TRUE)
  }
  if (!is.null(opened_by[[workers$name]])) rm(list = workers$name, envir = opened_by)
}

# One by one, so that one that is gone keeps no other.
stop_workers <- function(workers) {
  own <- opened_by[[workers$name]]
  for (k in seq_along(own$cluster)) {
    try(parallel::stopCluster(own$cluster[k]), silent = TRUE)
    try(close(own$cluster[[k]]$con), silent = TRUE)
  }
  if (!is.null(own)) own$cluster <- NULL
  workers$open <- FALSE
}

# The processes, where sums are asked of several shards that functions connect; else NULL.
asked_at_once <- function(table) if (table$fetch == "sums" && length(table$connections) > 1) table$workers

# work(connection, argument) in each process at once; arguments: one a shard. Errors of the engines are ours, those of the first shard first.
each_worker <- function(workers, work, arguments = rep(list(NULL), length(workers$connect))) {
  own <- opened_by[[workers$name]]
  if (is.null(own$cluster)) {
    own$cluster <- database_does(parallel::makePSOCKcluster(length(workers$connect)))
    parallel::clusterCall(own$cluster, `environment<-`(function(libraries) .libPaths(libraries), baseenv()), .libPaths())
  }
  # What was begun and not ended, an interrupt among it, would be taken for the next answer.
  ended <- FALSE
  on.exit(if (!ended) stop_workers(workers))
  found <- tryCatch(parallel::clusterMap(own$cluster, in_worker, workers$connect, arguments, MoreArgs = list(work = work), SIMPLIFY = FALSE),
    error = function(e) stop_database_said(paste("The connection was lost:", conditionMessage(e))))
  ended <- TRUE
  for (one in found) if (!is.null(one$trouble)) stop_database_said(one$trouble)
  lapply(found, `[[`, "value")
}

# Runs over there, and so needs nothing of this package: list(value) or list(trouble). The connection is kept among the process's options.
in_worker <- `environment<-`(function(connect, argument, work) {
  tryCatch({
    if (is.null(getOption("shard.connection"))) options(shard.connection = connect())
    list(value = work(getOption("shard.connection"), argument))
  }, error = function(e) list(trouble = conditionMessage(e)))
}, baseenv())

# What is done over there, in the base environment for the same reason.
worker_asks <- `environment<-`(function(connection, sql) as.list(DBI::dbGetQuery(connection, sql)), baseenv())
worker_tells <- `environment<-`(function(connection, sql) for (one in sql) DBI::dbExecute(connection, one), baseenv())
worker_begins <- `environment<-`(function(connection, sql) DBI::dbBegin(connection), baseenv())
worker_ends <- `environment<-`(function(connection, sql) DBI::dbRollback(connection), baseenv())

# A statement's answer from each process.
ask_workers <- function(workers, statements) {
  lapply(each_worker(workers, worker_asks, statements), function(found) list2DF(lapply(found, plain_column)))
}

# One state of each shard for all statements of a question: TRUE where it was opened here.
open_workers <- function(workers, engine) {
  if (is.null(workers) || isTRUE(workers$open)) {
    return(FALSE)
  }
  # Where one shard does not answer, the others are not left within a transaction, and all are connected anew the next time.
  tryCatch(each_worker(workers, worker_begins), error = function(e) {
    stop_workers(workers)
    stop(e)
  })
  workers$open <- TRUE
  settings <- engine_trait(engine, "settings")
  if (length(settings) > 0) each_worker(workers, worker_tells, rep(list(settings), length(workers$connect)))
  TRUE
}

close_workers <- function(workers) {
  workers$open <- FALSE
  try(each_worker(workers, worker_ends), silent = TRUE)
}

# Half of the memory is for the answers, the rest for work with them.
fits_memory <- function(table, rows, columns) rows * columns * 8 <= table$memory * 2^20 / 2
