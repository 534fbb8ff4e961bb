# frozen_string_literal: true

# What of the demo is made at the same time.
module Demo
  module_function

  # In processes of their own, which leave the database of the first alone.
  # @param doings [Array<Proc>]
  # @raise [RuntimeError] where one of them failed; it has said why
  def apart(*doings)
    made = doings.map { |doing| fork { alone(doing) } }.map { |pid| Process.wait2(pid).last }
    raise 'the images of the demo could not be made' unless made.all?(&:success?)
  end

  def alone(doing)
    doing.call
    exit!(0)
  rescue StandardError => e
    warn e.full_message
    exit!(1)
  end
  private_class_method :alone

  # In threads, each with a line to the database.
  # @param doings [Array<Proc>]
  # @raise whatever one of them raised
  def beside(*doings)
    threads = doings.map { |doing| Thread.new { ActiveRecord::Base.connection_pool.with_connection { doing.call } } }
    threads.each { |thread| thread.report_on_exception = false }.each(&:value)
  end
end
