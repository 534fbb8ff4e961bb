# frozen_string_literal: true

require 'fileutils'

# Passwords of web shelves, and of log-ins that a trial start makes: in files
# that only this user may read, never in the database, in an answer or in a log.
module Secrets
  module_function

  # @param shelf [Shelf]
  # @return [String, nil]
  def of(shelf) = read("shelf-#{Integer(shelf.id)}")

  # @param password [String, nil] nil or empty forgets it
  def keep(shelf, password) = write("shelf-#{Integer(shelf.id)}", password)

  def forget(shelf) = write("shelf-#{Integer(shelf.id)}", nil)

  # @param computer [Computer]
  # @return [String, nil]
  def of_computer(computer) = read("computer-#{Integer(computer.id)}")

  # @param password [String, nil] nil or empty forgets it
  def keep_computer(computer, password) = write("computer-#{Integer(computer.id)}", password)

  def read(name)
    File.read(Config.path('secrets', name))
  rescue Errno::ENOENT
    nil
  end

  # Once it holds what the call has changed: a refused one changes no secret.
  def write(name, password) = ActiveRecord.after_all_transactions_commit { put(name, password) }

  def put(name, password)
    return FileUtils.rm_f(Config.path('secrets', name)) if password.blank?

    FileUtils.mkdir_p(Config.path('secrets'), mode: 0o700)
    File.write(Config.path('secrets', name), password, perm: 0o600)
  end
  private_class_method :read, :write, :put
end
