# Shards asked at the same time, each by a process of its own that holds a connection to it. A connection cannot be handed to another process, so
# the list of shards is one of functions that connect.

# What functions connected, and a process for each, started when first asked; all of it ends when nothing needs it any more.
new_workers <- function(connect) {
  workers <- new.env(parent = emptyenv())
  workers$connect <- connect
  reg.finalizer(workers, function(workers) {
    stop_workers(workers)
    for (connection in workers$connections) try(DBI::dbDisconnect(connection), silent = TRUE)
  }, onexit = TRUE)
  for (one in connect) workers$connections <- c(workers$connections, list(database_does(one())))
  workers
}

stop_workers <- function(workers) {
  if (!is.null(workers$cluster)) try(parallel::stopCluster(workers$cluster), silent = TRUE)
  workers$cluster <- NULL
  workers$open <- FALSE
}

# The processes, where sums are asked of several shards that functions connect; else NULL.
asked_at_once <- function(table) if (table$fetch == "sums" && length(table$connections) > 1) table$workers

# work(connection, argument) in each process at once; arguments: one a shard. Errors of the engines are ours, those of the first shard first.
each_worker <- function(workers, work, arguments = rep(list(NULL), length(workers$connect))) {
  if (is.null(workers$cluster)) {
    workers$cluster <- database_does(parallel::makePSOCKcluster(length(workers$connect)))
    libraries <- .libPaths()
    parallel::clusterCall(workers$cluster, `environment<-`(function(libraries) .libPaths(libraries), baseenv()), libraries)
  }
  found <- tryCatch(parallel::clusterMap(workers$cluster, in_worker, workers$connect, arguments, MoreArgs = list(work = work), SIMPLIFY = FALSE),
    error = function(e) {
      stop_workers(workers)
      stop_database_said(paste("The connection was lost:", conditionMessage(e)))
    })
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
  each_worker(workers, worker_begins)
  workers$open <- TRUE
  if (engine == "PostgreSQL") each_worker(workers, worker_tells, rep(list(state_settings), length(workers$connect)))
  TRUE
}

close_workers <- function(workers) {
  workers$open <- FALSE
  try(each_worker(workers, worker_ends), silent = TRUE)
}
