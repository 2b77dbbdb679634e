# Files of other programs. What they say of their columns travels as `foreign`:
# a named list, a column each, of list(wording, labels, missing).

read_sheet <- function(path, how) {
  need_package("readxl", "XLSX")
  sheet <- if (is.null(how$sheet)) 1 else how$sheet
  data <- try_to_read(path, "an XLSX file", suppressMessages(as.data.frame(
    readxl::read_excel(path, sheet = sheet, .name_repair = "minimal", guess_max = 1e5)
  )))
  if (ncol(data) == 0) stop_file(paste0("The sheet is empty: ", path))
  list(data = data, said = paste0(basename(path), ", sheet ", sheet), foreign = list())
}

read_parquet_file <- function(path, how) {
  need_package("nanoparquet", "Parquet")
  data <- try_to_read(path, "a Parquet file", as.data.frame(nanoparquet::read_parquet(path)))
  list(data = data, said = paste0(basename(path), ", Parquet"), foreign = list())
}

read_rds_file <- function(path, how) {
  data <- try_to_read(path, "an RDS file", readRDS(path))
  if (!is.data.frame(data)) {
    stop_file(paste0("The RDS file does not hold a data frame: ", path, " holds ", what_is(data), "."))
  }
  describe_labelled(as.data.frame(data), paste0(basename(path), ", RDS"))
}

read_haven <- function(path, how) {
  kind <- toupper(tools::file_ext(path))
  need_package("haven", kind)
  reader <- switch(kind,
    DTA = haven::read_dta, XPT = haven::read_xpt, POR = function(p) haven::read_por(p, user_na = TRUE),
    function(p) haven::read_sav(p, user_na = TRUE)
  )
  data <- try_to_read(path, paste("a", kind, "file"), as.data.frame(reader(path)))
  describe_labelled(data, paste0(basename(path), ", ", kind))
}

try_to_read <- function(path, what, code) {
  tryCatch(code, error = function(e) {
    stop_file(paste0("This cannot be read as ", what, "; it may be damaged or cut off: ", path),
      faults = first_sentence(cli::ansi_strip(conditionMessage(e))))
  })
}

# Takes labels, wordings and user-missing codes off the columns.
describe_labelled <- function(data, said) {
  foreign <- lapply(data, function(x) {
    labels <- attr(x, "labels", exact = TRUE)
    missing <- attr(x, "na_values", exact = TRUE)
    range <- attr(x, "na_range", exact = TRUE)
    seen <- suppressWarnings(as.numeric(unclass(x)))
    if (!is.null(range)) missing <- c(missing, sort(unique(seen[!is.na(seen) & seen >= range[1] & seen <= range[2]])))
    missing <- unique(unname(missing))
    labels <- labels[!unname(labels) %in% missing]
    list(wording = attr(x, "label", exact = TRUE), labels = labels, missing = missing)
  })
  plain <- lapply(data, function(x) {
    if (!inherits(x, "haven_labelled")) {
      return(if (is.numeric(x) || is.character(x)) as.vector(x) else x)
    }
    as.vector(unclass(x))
  })
  labelled <- names(Filter(function(f) length(f$labels) > 0, foreign))
  list(
    data = as.data.frame(plain, check.names = FALSE, stringsAsFactors = FALSE), foreign = foreign,
    said = c(said, if (length(labelled) > 0) paste("value labels found in", and_list(labelled)))
  )
}

# A codebook completed by what the file says: its user-missing codes, and labels
# and wordings where the codebook has none. list(codebook, said).
settle_foreign <- function(codebook, table) {
  said <- character()
  items <- codebook$items
  for (i in seq_len(nrow(items))) {
    about <- table$foreign[[items$item[i]]]
    if (is.null(about)) next
    if (length(about$missing) > 0) {
      codes <- setdiff(as.character(about$missing), missing_codes(items$missing[i])$code)
      if (length(codes) > 0) {
        items$missing[i] <- trimws(paste(if (is.na(items$missing[i])) "" else items$missing[i], paste(codes, collapse = " ")))
        said <- c(said, paste0("missing in ", items$item[i], " by the file's own word: ", paste(codes, collapse = ", ")))
      }
    }
    if (is.na(items$labels[i]) && length(about$labels) > 0 && is.numeric(about$labels)) items$labels[i] <- labels_text(about$labels)
    if (is.na(items$wording[i]) && length(about$wording) == 1) items$wording[i] <- about$wording
  }
  codebook$items <- items
  list(codebook = codebook, said = said)
}

# Groups get the labels that the file has for them.
label_foreign_groups <- function(table, group) {
  for (column in intersect(group, names(table$foreign))) {
    labels <- table$foreign[[column]]$labels
    if (length(labels) == 0) next
    seen <- match(table$data[[column]], labels)
    table$data[[column]] <- ifelse(is.na(seen), as.character(table$data[[column]]), names(labels)[seen])
  }
  table
}

# Labels as the codebook writes them, number and word.
labels_text <- function(labels) paste(paste0(format_answer(unname(labels)), " = ", gsub("[;=]", ",", names(labels))), collapse = "; ")
