# A number from an identifier, by which a database tells people apart at random.

# The same in a statement: is the number at least `from` and below `to`?
hash_sql <- function(source, connection, condition) {
  hash <- condition$hash
  weights <- format(identifier_weights(hash$seed), scientific = FALSE, trim = TRUE)
  text <- paste0("CAST(", quoted_names(connection, hash$column), " AS ", engine_trait(source$table$engine, "text"), ")")
  code <- engine_trait(source$table$engine, "code")
  whole <- engine_trait(source$table$engine, "whole")
  k <- seq_len(identifier_length)
  terms <- paste0("CASE WHEN length(", text, ") >= ", k, " THEN CAST(", code, "(substr(", text, ", ", k, ", 1)) AS ", whole, ") * ", weights[k],
    " ELSE 0 END", collapse = " + ")
  number <- paste0("((", terms, " + ", weights[identifier_length + 1], ") % ", format(identifier_prime, scientific = FALSE), ")")
  bound <- function(share) format(ceiling(share * identifier_prime), scientific = FALSE)
  paste0(number, " >= ", bound(condition$from), " AND ", number, " < ", bound(condition$to))
}

identifier_weights <- function(seed) with_seed(seed, floor(stats::runif(identifier_length + 1) * (identifier_prime - 1)) + 1)

identifier_length <- 40L

identifier_prime <- 2147483647
