# Databases for tests: SQLite in memory, and PostgreSQL servers of their own on the loopback, run by an ordinary user and stopped with the tests.

withr::local_envvar(TZ = Sys.getenv("TZ", "UTC"), .local_envir = testthat::teardown_env())

local_sqlite <- function(..., path = ":memory:", env = parent.frame()) {
  skip_without("RSQLite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), path)
  withr::defer(if (DBI::dbIsValid(connection)) DBI::dbDisconnect(connection), env)
  put_tables(connection, ...)
}

put_tables <- function(connection, ...) {
  tables <- list(...)
  for (name in names(tables)) DBI::dbWriteTable(connection, name, as.data.frame(tables[[name]]), overwrite = TRUE)
  connection
}

demo_book <- function(name = "plotholders") system.file("extdata", paste0(name, "-codebook.csv"), package = "scalewort")

postgres_bin <- function() {
  found <- c(rev(Sys.glob("/usr/lib/postgresql/*/bin")), dirname(Sys.which("initdb")))
  found[file.exists(file.path(found, "initdb"))][1]
}

# As nobody where we are root, which PostgreSQL refuses to be.
as_user <- function(program, args) {
  root <- identical(unname(Sys.info()[["user"]]), "root")
  line <- c(if (root) c("-u", "nobody", "--", program), args)
  withr::with_dir("/", system2(if (root) "runuser" else program, line, stdout = FALSE, stderr = FALSE))
}

# Ports of `count` servers, started once for all tests that need them.
postgres_ports <- local({
  ports <- NULL
  function(count = 4) {
    skip_without("postgresql", "RPostgres")
    bin <- postgres_bin()
    if (!is.null(ports)) return(ports)
    folder <- tempfile("scalewort-postgres-", "/tmp")
    dir.create(folder)
    if (Sys.info()[["user"]] == "root") system2("chown", c("nobody", folder))
    wanted <- vapply(seq_len(count), function(i) httpuv::randomPort(min = 20000 + 5000 * i, max = 24999 + 5000 * i), 0)
    places <- file.path(folder, wanted)
    as_user(file.path(bin, "initdb"), c("-D", places[1], "-A", "trust", "-U", "panel", "-E", "UTF8", "--locale=C", "--no-sync"))
    for (place in places[-1]) as_user("/bin/cp", c("-r", places[1], place))
    for (i in seq_along(places)) {
      own <- shQuote(paste0("-p ", wanted[i], " -c listen_addresses=127.0.0.1 -c unix_socket_directories=", places[i], " -c fsync=off"))
      as_user(file.path(bin, "pg_ctl"), c("-D", places[i], "-w", "-o", own, "-l", paste0(places[i], ".log"), "start"))
    }
    withr::defer({
      for (place in places) as_user(file.path(bin, "pg_ctl"), c("-D", place, "-m", "immediate", "stop"))
      unlink(folder, recursive = TRUE)
    }, testthat::teardown_env())
    ports <<- wanted
    ports
  }
})

local_postgres <- function(..., port = postgres_ports()[1], user = "panel", env = parent.frame()) {
  # Asked first: where there is no server its driver is not either.
  force(port)
  connection <- suppressWarnings(DBI::dbConnect(RPostgres::Postgres(), host = "127.0.0.1", port = port, user = user, dbname = "postgres",
    timezone = "UTC"))
  withr::defer(if (DBI::dbIsValid(connection)) DBI::dbDisconnect(connection), env)
  put_tables(connection, ...)
}

# A table `national` partitioned over the other servers: the connection that is asked, and those of the shards (table `part`).
local_shards <- function(data, env = parent.frame()) {
  ports <- postgres_ports()
  data$shard <- rep_len(1:3, nrow(data))
  shards <- lapply(1:3, function(k) local_postgres(part = data[data$shard == k, ], port = ports[k + 1], env = env))
  whole <- local_postgres(env = env)
  run <- function(...) suppressMessages(DBI::dbExecute(whole, paste0(...)))
  types <- vapply(data, function(x) if (is.character(x)) "text" else if (is.integer(x)) "integer" else "double precision", "")
  run("CREATE EXTENSION IF NOT EXISTS postgres_fdw")
  run("DROP TABLE IF EXISTS national CASCADE")
  run("CREATE TABLE national (", paste(names(data), types, collapse = ", "), ") PARTITION BY LIST (shard)")
  for (k in 1:3) {
    run("DROP SERVER IF EXISTS shard", k, " CASCADE")
    run("CREATE SERVER shard", k, " FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '127.0.0.1', port '", ports[k + 1],
      "', dbname 'postgres', fdw_startup_cost '100', fdw_tuple_cost '1')")
    run("CREATE USER MAPPING FOR panel SERVER shard", k, " OPTIONS (user 'panel', password_required 'false')")
    run("CREATE FOREIGN TABLE national_", k, " PARTITION OF national FOR VALUES IN (", k, ") SERVER shard", k, " OPTIONS (table_name 'part')")
  }
  list(whole = whole, shards = shards)
}
