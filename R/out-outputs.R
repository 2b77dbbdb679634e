# The output folder of a plan: what stands there from before, and what takes its place. Everything is
# written to a folder beside, and moved when all of it is there.

manifest_name <- "manifest.json"

# What the last run wrote and nobody changed since: names relative to the folder.
own_outputs <- function(folder) {
  path <- file.path(folder, manifest_name)
  manifest <- if (file.exists(path)) tryCatch(jsonlite::fromJSON(path), error = function(e) NULL)
  listed <- manifest$outputs
  if (!is.data.frame(listed) || !all(c("file", "hash") %in% names(listed))) {
    return(list(same = character(), changed = character()))
  }
  # A manifest is a file like any other: what it lists outside the folder is nobody's.
  listed <- listed[!grepl("^([/~]|[A-Za-z]:)|(^|/)[.][.](/|$)", listed$file), ]
  there <- listed[file.exists(file.path(folder, listed$file)), ]
  same <- vapply(seq_len(nrow(there)), function(i) rlang::hash_file(file.path(folder, there$file[i])) == there$hash[i], TRUE)
  list(same = there$file[same], changed = there$file[!same])
}

# Refuses, before anything is computed, files that a run would replace and that are not the last run's.
check_outputs <- function(folder, plan, overwrite, inputs) {
  names <- c(expected_outputs(plan), list.files(folder, "^figure-[0-9]+-.*[.]png$"),
    file.path("report-figures", list.files(file.path(folder, "report-figures"))))
  there <- names[file.exists(file.path(folder, names))]
  read <- there[normalizePath(file.path(folder, there)) %in% normalizePath(inputs)]
  if (length(read) > 0) stop_file(message_of("e_plan_would_write", read = read[1]), hint = message_of("e_give_another_output"))
  own <- own_outputs(folder)
  foreign <- setdiff(there, c(own$same, manifest_name))
  if (length(foreign) > 0 && !overwrite) {
    edited <- foreign %in% own$changed
    stop_file(message_of("e_files_would_replaced", folder = folder), faults = messages_of("e_said_three", foreign = foreign,
      edited = lapply(edited, function(own) message_of(if (own) "changed_since" else "not_from_this_plan"))), hint = message_of("e_move_them_give"))
  }
  own$same
}

expected_outputs <- function(plan) {
  forms <- unlist(plan$reports)
  c(names(result_table_files(list())), paste0("report.", if (is.null(forms)) "html" else forms),
    paste0("scores.", unlist(plan$write), recycle0 = TRUE))
}

# Moves what `write` puts into a folder beside to its place; files of the last run that this one does not
# make go. Returns the paths and what was left standing.
replace_outputs <- function(folder, own, write) {
  side <- file.path(folder, paste0(".writing-", Sys.getpid()))
  old <- list.files(folder, "^[.]writing-[0-9]+$", all.files = TRUE, full.names = TRUE)
  unlink(old[difftime(Sys.time(), file.mtime(old), units = "mins") > 10 | old == side], recursive = TRUE)
  dir.create(side)
  on.exit(unlink(side, recursive = TRUE))
  made <- write(side)
  names <- list.files(side, recursive = TRUE)
  for (name in names) {
    dir.create(dirname(file.path(folder, name)), recursive = TRUE, showWarnings = FALSE)
    if (!file.rename(file.path(side, name), file.path(folder, name))) stop_file(message_of("e_file_could_not_put", name = name))
  }
  unlink(file.path(folder, setdiff(own, names)))
  list(paths = file.path(folder, substring(made, nchar(side) + 2)), names = names)
}
