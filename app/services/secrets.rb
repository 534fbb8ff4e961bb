# frozen_string_literal: true

require 'fileutils'

# Passwords of web shelves: in files that only this user may read, never in
# the database, in an answer or in a log.
module Secrets
  module_function

  # @param shelf [Shelf]
  # @return [String, nil]
  def of(shelf)
    File.read(path(shelf))
  rescue Errno::ENOENT
    nil
  end

  # @param password [String, nil] nil or empty forgets it
  def keep(shelf, password)
    return forget(shelf) if password.blank?

    FileUtils.mkdir_p(Config.path('secrets'), mode: 0o700)
    File.write(path(shelf), password, perm: 0o600)
  end

  def forget(shelf) = FileUtils.rm_f(path(shelf))

  def path(shelf) = Config.path('secrets', "shelf-#{Integer(shelf.id)}")
  private_class_method :path
end
