# Kept results of a plan, in the user's cache: a file per step with the key it was made under. They are
# RDS files, which can run code when they are read, and so are not looked for in a project's folder;
# each is read only when it is what was written, by its checksum, under the key that is asked for.

result_store <- function(plan, key) {
  folder <- file.path(tools::R_user_dir("scalewort", "cache"), "kept", hash_of(normalizePath(plan)))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  place <- function(name, ending) file.path(folder, paste0(name, ending))
  told <- function(name, key) c(unname(tools::md5sum(place(name, ".rds"))), key)
  list(
    key = key, folder = folder,
    get = function(name, key) {
      file <- place(name, ".rds")
      sum <- place(name, ".md5")
      known <- if (all(file.exists(file, sum))) readLines(sum, warn = FALSE)
      if (!key %in% known || !identical(known, told(name, key))) {
        return(NULL)
      }
      kept <- tryCatch(readRDS(file), error = function(e) NULL)
      if (is.list(kept) && identical(kept$key, key)) kept
    },
    # What cannot be kept is computed again next time. Compressing takes longer than writing.
    put = function(name, key, result) {
      if (holds_table(result)) {
        return(invisible())
      }
      tryCatch({
        write_safely(place(name, ".rds"), TRUE, function(draft) saveRDS(list(key = key, result = result), draft, compress = FALSE))
        write_safely(place(name, ".md5"), TRUE, function(draft) writeLines(told(name, key), draft))
      }, scalewort_error_file = function(e) unlink(c(place(name, ".rds"), place(name, ".md5"))))
    }
  )
}

# Is this a survey, or halves of one, whose answers are behind a connection? Such a one ends with the session.
holds_table <- function(result) {
  surveys <- Filter(has_answers, if (has_answers(result)) list(result) else if (is.list(result)) unclass(result))
  any(vapply(surveys, function(one) inherits(one$source, "table_source"), TRUE))
}
